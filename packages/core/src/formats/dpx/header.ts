import type { ByteSource } from '../byte-source.ts';
import { FrameFileError, NotDecodedError } from '../errors.ts';
import type { ChannelInfo, FrameHeader } from '../frame.ts';

/** DPX is read after SMPTE ST 268-1:2014; offsets of fields are those of its section 5. */
const GENERIC_HEADER_BYTES = 1664;
const UNDEFINED = 0xffffffff;

export interface DpxImage {
  readonly littleEndian: boolean;
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  /** Channels of a pixel, by the element's descriptor. */
  readonly channels: readonly string[];
  /** Samples stored for each pixel; two where chroma is halved. */
  readonly samplesPerPixel: number;
  /** 0 packed into 32-bit words, 1 filled to words at the low end, 2 at the high end. */
  readonly packing: number;
  readonly runs: boolean;
  readonly dataOffset: number;
  /** Bytes of padding behind each line and behind the picture. */
  readonly linePadding: number;
  readonly imagePadding: number;
  readonly orientation: number;
  /** What the file says of its own length; real writers get it wrong. */
  readonly statedSize: number;
  readonly elements: number;
  readonly pixelAspect: number | null;
  readonly metadata: Readonly<Record<string, string | number>>;
}

const DESCRIPTORS: Record<number, { channels: string[]; samples?: number }> = {
  0: { channels: ['Y'] },
  1: { channels: ['R'] },
  2: { channels: ['G'] },
  3: { channels: ['B'] },
  4: { channels: ['A'] },
  6: { channels: ['Y'] },
  8: { channels: ['Z'] },
  50: { channels: ['R', 'G', 'B'] },
  51: { channels: ['R', 'G', 'B', 'A'] },
  52: { channels: ['A', 'B', 'G', 'R'] },
  100: { channels: ['Cb', 'Y', 'Cr'], samples: 2 },
  101: { channels: ['Cb', 'Y', 'Cr', 'A'], samples: 3 },
  102: { channels: ['Cb', 'Y', 'Cr'] },
  103: { channels: ['Cb', 'Y', 'Cr', 'A'] },
};

/** Reads the generic header and what the film and television headers add. @throws FrameFileError */
export function readDpxImage(source: ByteSource): DpxImage {
  if (source.size < GENERIC_HEADER_BYTES) throw new FrameFileError('truncated', `The file ends inside its header, after ${source.size} bytes.`);
  const bytes = source.read(0, Math.min(source.size, 2048));
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const littleEndian = bytes[0] === 0x58;
  const word = (at: number) => view.getUint32(at, littleEndian);
  const short = (at: number) => view.getUint16(at, littleEndian);
  const [width, height, elements] = [word(772), word(776), short(770)];
  if (width < 1 || height < 1 || width > 2 ** 20 || height > 2 ** 20)
    throw new FrameFileError('corrupt', `The header gives an impossible size, ${width} x ${height}.`);
  if (elements < 1 || elements > 8) throw new FrameFileError('corrupt', `The header gives ${elements} picture elements.`);
  const [descriptor, bits] = [bytes[800], bytes[803]];
  const described = DESCRIPTORS[descriptor];
  if (!described) throw new NotDecodedError(`Elements of the kind ${descriptor} cannot be looked into.`);
  if (![1, 8, 10, 12, 16, 32, 64].includes(bits)) throw new FrameFileError('corrupt', `The header gives ${bits} bits a sample, which DPX does not have.`);
  const stated = word(808);
  const dataOffset = stated === 0 || stated === UNDEFINED ? word(4) : stated;
  if (dataOffset < GENERIC_HEADER_BYTES) throw new FrameFileError('corrupt', `The header puts the pixels at byte ${dataOffset}, inside itself.`);
  if (dataOffset > 2 ** 31) throw new FrameFileError('corrupt', `The header puts the pixels at byte ${dataOffset}.`);
  const padding = (at: number) => (word(at) === UNDEFINED ? 0 : word(at));
  const [aspectAcross, aspectDown] = [word(1628), word(1632)];
  const hasAspect = aspectAcross > 0 && aspectDown > 0 && aspectAcross < UNDEFINED && aspectDown < UNDEFINED;
  return {
    littleEndian,
    width,
    height,
    bits,
    channels: described.channels,
    samplesPerPixel: described.samples ?? described.channels.length,
    packing: short(804),
    runs: short(806) === 1,
    dataOffset,
    linePadding: padding(812),
    imagePadding: padding(816),
    orientation: short(768),
    statedSize: word(16),
    elements,
    pixelAspect: hasAspect ? aspectAcross / aspectDown : null,
    metadata: readNotes(bytes, view, littleEndian),
  };
}

function readNotes(bytes: Uint8Array, view: DataView, littleEndian: boolean): Record<string, string | number> {
  const notes: Record<string, string | number> = {};
  const text = (name: string, at: number, length: number) => {
    const raw = bytes.subarray(at, at + length);
    const end = raw.indexOf(0);
    const value = new TextDecoder('latin1').decode(end < 0 ? raw : raw.subarray(0, end)).trim();
    if (value !== '' && /^[\x20-\x7e]+$/.test(value)) notes[name] = value;
  };
  text('creator', 160, 100);
  text('project', 260, 200);
  if (bytes.length >= 1728) number('framesPerSecond', view.getFloat32(1724, littleEndian));
  if (bytes.length >= 1944) {
    number('framesPerSecond', view.getFloat32(1940, littleEndian));
    const code = view.getUint32(1920, littleEndian);
    if (code !== UNDEFINED && code !== 0) notes.timeCode = code;
  }
  function number(name: string, value: number): void {
    if (Number.isFinite(value) && value > 0 && value < 1e6) notes[name] = Math.round(value * 1000) / 1000;
  }
  return notes;
}

/** The header in the words that all formats share. */
export function dpxFrameHeader(image: DpxImage): FrameHeader {
  const depth = (['1', '8', '10', '12', '16'] as const).find((known) => Number(known) === image.bits);
  const info = (name: string): ChannelInfo => ({ name, depth: depth ?? (image.bits === 64 ? 'double' : 'float') });
  return {
    format: 'dpx',
    width: image.width,
    height: image.height,
    pixelAspect: image.pixelAspect,
    channels: inUsualOrder(image.channels).map(info),
    namedChannels: false,
    compression: image.runs ? 'rle' : 'none',
    dataWindow: null,
    displayWindow: null,
    metadata: image.metadata,
  };
}

/** Alpha, blue, green, red is told as the others are. */
export function inUsualOrder(channels: readonly string[]): readonly string[] {
  return channels[0] === 'A' && channels.length === 4 ? [...channels].reverse() : channels;
}
