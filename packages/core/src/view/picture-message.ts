import * as z from 'zod';
import { MintError } from '../errors.ts';

const place = z.number().int();
const windowSchema = z.tuple([place, place, place, place]);

/** What the samples of a picture are, and where they belong. */
export const pictureInfoSchema = z.object({
  format: z.string(),
  type: z.enum(['u8', 'u16', 'half', 'float', 'uint']),
  /** Of the samples, one to four. */
  channels: z.array(z.string()).min(1).max(4),
  /** Of the whole file. */
  all: z.array(z.string()),
  /** Corner of the part in the data window, in the file's pixels. */
  left: place,
  top: place,
  /** Size of the samples: of the part, divided by `reduce`. */
  width: place.positive(),
  height: place.positive(),
  /** 1 for the file's own pixels; else so many across and down became one. */
  reduce: place.positive(),
  /** Size of the whole data window. */
  full: z.tuple([place, place]),
  dataWindow: windowSchema,
  displayWindow: windowSchema,
  pixelAspect: z.number(),
  alphaKind: z.enum(['straight', 'premultiplied']).nullable(),
  /** Where nothing of a damaged file could be read: left, top, width and height in the data window. */
  damage: z.array(windowSchema).default([]),
  /** What is the matter with a damaged file; empty for a sound one. */
  problem: z.string().default(''),
});
export type PictureInfo = z.output<typeof pictureInfoSchema>;

/** Samples pixel by pixel; halves as their 16 bits. */
export type PictureSamples = Uint8Array | Uint16Array | Uint32Array | Float32Array;

/** A part of a frame as it is sent to whoever looks at it. */
export interface SentPicture {
  readonly info: PictureInfo;
  readonly samples: PictureSamples;
}

/** Samples begin at a multiple of so many bytes, whatever their type. */
const ALIGNMENT = 16;
const ARRAYS = { u8: Uint8Array, u16: Uint16Array, half: Uint16Array, float: Float32Array, uint: Uint32Array } as const;

/** Writes a picture as one run of bytes: the length of what is said of it, that as JSON, and the samples, lowest byte first. */
export function writePictureMessage({ info, samples }: SentPicture): Uint8Array<ArrayBuffer> {
  const said = new TextEncoder().encode(JSON.stringify(info));
  const start = Math.ceil((4 + said.length) / ALIGNMENT) * ALIGNMENT;
  const bytes = new Uint8Array(start + samples.byteLength);
  new DataView(bytes.buffer).setUint32(0, said.length, true);
  bytes.set(said, 4);
  bytes.set(new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength), start);
  return bytes;
}

/** Reads what `writePictureMessage` wrote. The samples are looked at where they are. @throws MintError when it is no such message */
export function readPictureMessage(buffer: ArrayBuffer): SentPicture {
  const broken = (why: string) => new MintError('picture', `The picture arrived damaged: ${why}.`, { remedy: 'Read the page anew.' });
  if (buffer.byteLength < 4) throw broken('it has no beginning');
  const length = new DataView(buffer).getUint32(0, true);
  if (4 + length > buffer.byteLength) throw broken('it is cut short');
  const info = pictureInfoSchema.parse(JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length))));
  const start = Math.ceil((4 + length) / ALIGNMENT) * ALIGNMENT;
  const samples = info.width * info.height * info.channels.length;
  const Samples = ARRAYS[info.type];
  if (start + samples * Samples.BYTES_PER_ELEMENT !== buffer.byteLength) throw broken('its size is not what it says');
  return { info, samples: new Samples(buffer, start, samples) };
}
