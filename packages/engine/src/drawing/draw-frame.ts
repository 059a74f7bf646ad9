import {
  alphaKindOf,
  lightOfColour,
  MintError,
  packPicture,
  seePicture,
  SeenByTable,
  usualReading,
  valueRangeOf,
  type AlphaKind,
  type MovieSettings,
  type PassRole,
  type Reading,
  type SeenPicture,
  type SentPicture,
} from '@mint-tally/core';
import sharp, { type OverlayOptions } from 'sharp';
import { letterBox } from './letter-box.ts';
import { decodeHere } from '../pictures/read-picture.ts';

/** A file, and what of it is shown. */
export interface ShownFile {
  /** Real path of the folder, and the file's below it. */
  readonly folder: string;
  readonly file: string;
  /** The channels that belong to the pass; null for all of the file's. */
  readonly layer: readonly string[] | null;
  readonly role: PassRole | undefined;
  readonly alpha: AlphaKind | undefined;
}

/** What holds for all pictures of a movie, found in its first. */
export interface FirstLook {
  readonly width: number;
  readonly height: number;
  readonly pixelAspect: number;
  readonly reading: Reading;
  readonly range: readonly [number, number];
}

/** A picture of a movie that is to be drawn. */
export interface FrameOrder {
  readonly shown: ShownFile | null;
  readonly other: ShownFile | null;
  /** Whether another sequence is shown at all. */
  readonly hasOther: boolean;
  readonly settings: MovieSettings;
  readonly look: Pick<FirstLook, 'reading' | 'range'>;
  readonly width: number;
  readonly height: number;
  /** Upper left, lower left, lower right. */
  readonly lines: readonly [string, string, string];
  /** What a slate says where there is no picture. */
  readonly slate: string;
}

/** A drawn picture: three bytes a pixel; and why it is a slate, empty when it is none. */
export interface DrawnFrame {
  readonly data: Uint8Array<ArrayBuffer>;
  readonly why: string;
}

/** Dark enough not to be taken for a picture, light enough not to be taken for black. */
const SLATE = { r: 38, g: 38, b: 38 };
/** Lines of a picture's height that letters are high. */
const LETTERS_OF_HEIGHT = 30;
const SMALLEST_LETTERS = 9;

/** The size and the kind of a movie's first picture. @throws MintError */
export function lookAtFirst(shown: ShownFile): FirstLook {
  const picture = read(shown);
  const [left, top, right, bottom] = picture.info.displayWindow;
  const reading = usualReading(shown.role, picture.info);
  return {
    ...{ width: right - left + 1, height: bottom - top + 1, pixelAspect: picture.info.pixelAspect, reading },
    range: reading === 'range' || reading === 'signs' ? valueRangeOf(picture, reading === 'signs' ? 3 : 1) : [0, 1],
  };
}

/** Draws a picture of a movie as the viewer shows it: a slate where there is none, or where it cannot be read. */
export async function drawFrame(order: FrameOrder): Promise<DrawnFrame> {
  const { settings, width, height, hasOther } = order;
  const sides = hasOther ? [order.shown, order.other] : [order.shown];
  const isBeside = hasOther && settings.arrange === 'beside';
  const own: readonly [number, number] = [isBeside ? width / 2 : width, height];
  let why = '';
  const drawn: Buffer[] = [];
  for (const [i, side] of sides.entries()) {
    let told = order.slate;
    try {
      if (side) {
        drawn.push(await fit(seen(side, order), read(side).info.pixelAspect, own, settings.size !== null));
        continue;
      }
    } catch (thrown) {
      if (!(thrown instanceof MintError)) throw thrown;
      told = `${order.slate.split('\n')[0]}\ncannot be read`;
    }
    if (i === 0) why = told;
    drawn.push(await slate(told, own));
  }
  const joined = drawn.length === 1 ? drawn[0]! : isBeside ? beside(drawn as [Buffer, Buffer], own) : split(drawn as [Buffer, Buffer], own);
  const lettered = await letter(joined, width, height, order.lines);
  return { data: new Uint8Array(lettered.buffer as ArrayBuffer, lettered.byteOffset, lettered.length).slice(), why };
}

let lastRead: { key: string; picture: SentPicture } | null = null;

/** The file's pixels; the last one is remembered, since it is asked for its shape and then for its looks. */
function read(shown: ShownFile): SentPicture {
  const key = JSON.stringify(shown);
  if (lastRead?.key === key) return lastRead.picture;
  const { frame } = decodeHere(shown.folder, shown.file);
  const picture = packPicture(frame, { layer: shown.layer, only: null, region: null, reduce: 1 });
  if (!picture) throw new MintError('no-channels', `${shown.file} has none of the channels that are wanted.`, { subject: shown.file });
  lastRead = { key, picture };
  return picture;
}

let table: { key: string; table: SeenByTable } | null = null;

function seen(shown: ShownFile, { settings, look }: FrameOrder): SeenPicture {
  const how = { exposure: settings.exposure, gamma: 1, transform: settings.view };
  const key = JSON.stringify(how);
  if (table?.key !== key) table = { key, table: new SeenByTable(how) };
  const picture = read(shown);
  const straight = alphaKindOf(shown.alpha, picture.info).kind === 'straight';
  return seePicture(picture, { ...look, straight, behind: settings.background === null ? null : lightOfColour(settings.background) }, table.table);
}

/** A picture with square pixels in the size of its place; what is left of that stays black, but for one more line or column. */
async function fit({ data, width, height }: SeenPicture, aspect: number, [across, down]: readonly [number, number], isSized: boolean): Promise<Buffer> {
  const square: readonly [number, number] = aspect >= 1 ? [width * aspect, height] : [width, height / aspect];
  const scale = isSized ? Math.min(across / square[0], down / square[1]) : 1;
  const [inner, tall] = square.map((side) => Math.max(1, Math.round(side * scale))) as [number, number];
  if (width === across && height === down && inner === across && tall === down) return Buffer.from(data.buffer, data.byteOffset, data.length);
  let picture = sharp(data, { raw: { width, height, channels: 3 } });
  if (inner !== width || tall !== height) picture = picture.resize(Math.min(inner, across), Math.min(tall, down), { fit: 'fill', kernel: 'lanczos3' });
  const [restAcross, restDown] = [Math.max(0, across - inner), Math.max(0, down - tall)];
  const isOneMore = restAcross <= 1 && restDown <= 1;
  return picture
    .extend({
      ...{ left: isOneMore ? 0 : Math.floor(restAcross / 2), right: isOneMore ? restAcross : Math.ceil(restAcross / 2) },
      ...{ top: isOneMore ? 0 : Math.floor(restDown / 2), bottom: isOneMore ? restDown : Math.ceil(restDown / 2) },
      ...(isOneMore ? { extendWith: 'copy' as const } : { background: '#000' }),
    })
    .raw()
    .toBuffer();
}

async function slate(text: string, [width, height]: readonly [number, number]): Promise<Buffer> {
  const lines = text.split('\n');
  const size = Math.max(SMALLEST_LETTERS, Math.round(height / 16));
  const boxes = await Promise.all(lines.map((line) => letterBox(line, size)));
  const tall = boxes.reduce((sum, box) => sum + box.height, 0);
  let top = Math.floor((height - tall) / 2);
  const overlays = boxes.map((box) => {
    const at = { left: Math.floor((width - box.width) / 2), top };
    top += box.height;
    return { box, ...at };
  });
  const ground = Buffer.alloc(width * height * 3, Buffer.from([SLATE.r, SLATE.g, SLATE.b]));
  return lay(ground, width, height, overlays);
}

type Overlay = { readonly box: Awaited<ReturnType<typeof letterBox>>; readonly left: number; readonly top: number };

/** Lays boxes over a picture; what does not fit into it is left out. */
async function lay(picture: Buffer, width: number, height: number, overlays: readonly Overlay[]): Promise<Buffer> {
  const fitting = overlays.filter(({ box, left, top }) => left >= 0 && top >= 0 && left + box.width <= width && top + box.height <= height);
  if (fitting.length === 0) return picture;
  const layers = fitting.map(({ box, left, top }): OverlayOptions => ({
    input: box.data,
    raw: { width: box.width, height: box.height, channels: 4 },
    left,
    top,
  }));
  return sharp(picture, { raw: { width, height, channels: 3 } })
    .composite(layers)
    .removeAlpha()
    .raw()
    .toBuffer();
}

async function letter(picture: Buffer, width: number, height: number, [upper, left, right]: readonly [string, string, string]): Promise<Buffer> {
  const size = Math.max(SMALLEST_LETTERS, Math.round(height / LETTERS_OF_HEIGHT));
  const boxes = await Promise.all([upper, left, right].map(async (line) => (line === '' ? null : letterBox(line, size))));
  const overlays = boxes.flatMap((box, i): Overlay[] => (box ? [{ box, left: i === 2 ? width - box.width : 0, top: i === 0 ? 0 : height - box.height }] : []));
  return lay(picture, width, height, overlays);
}

function beside([one, other]: readonly [Buffer, Buffer], [width, height]: readonly [number, number]): Buffer {
  const out = Buffer.alloc(2 * width * height * 3);
  for (let y = 0; y < height; y++) {
    one.copy(out, y * 2 * width * 3, y * width * 3, (y + 1) * width * 3);
    other.copy(out, (y * 2 + 1) * width * 3, y * width * 3, (y + 1) * width * 3);
  }
  return out;
}

/** The left half of one, the right half of the other, and a line between. */
function split([one, other]: readonly [Buffer, Buffer], [width, height]: readonly [number, number]): Buffer {
  const out = Buffer.from(one);
  const middle = Math.floor(width / 2);
  for (let y = 0; y < height; y++) {
    other.copy(out, (y * width + middle) * 3, (y * width + middle) * 3, (y + 1) * width * 3);
    for (const x of [middle - 1, middle]) out.set([128, 227, 181], (y * width + x) * 3);
  }
  return out;
}
