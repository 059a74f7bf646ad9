import { ByteReader, type ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { ChannelInfo, CodecTools, FrameHeader } from '../frame.ts';
import { addTextNote } from './text.ts';

/** PNG is read after ISO/IEC 15948 (W3C PNG Specification, Third Edition, 2025); section numbers are its. */
export const PNG_SIGNATURE = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a);

/** Bytes of a chunk besides its data: length, type and CRC (section 5.3). */
export const CHUNK_OVERHEAD = 12;

/** IHDR, as it stands (section 11.2.1). */
export interface PngImageHeader {
  readonly width: number;
  readonly height: number;
  readonly bitDepth: 1 | 2 | 4 | 8 | 16;
  readonly colourType: 0 | 2 | 3 | 4 | 6;
  readonly interlaced: boolean;
}

/** A chunk's place: `offset` is that of its data. */
export interface PngChunk {
  readonly type: string;
  readonly offset: number;
  readonly length: number;
}

const ALLOWED_DEPTHS: Record<number, readonly number[]> = {
  0: [1, 2, 4, 8, 16],
  2: [8, 16],
  3: [1, 2, 4, 8],
  4: [8, 16],
  6: [8, 16],
};

/** Samples a pixel for each colour type (section 11.2.1). */
export const SAMPLES_PER_PIXEL: Record<PngImageHeader['colourType'], number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 };

/** Reads and checks signature and IHDR. @throws FrameFileError */
export function readImageHeader(source: ByteSource): PngImageHeader {
  if (source.size < 33) throw new FrameFileError('truncated', `The file ends inside its header, after ${source.size} bytes.`);
  const reader = new ByteReader(source.read(0, 33), { littleEndian: false, position: 8 });
  const length = reader.uint32();
  const type = reader.uint32();
  if (length !== 13 || type !== 0x49484452) throw new FrameFileError('corrupt', 'The file does not begin with an IHDR chunk.');
  const width = reader.uint32();
  const height = reader.uint32();
  const [bitDepth, colourType, compression, filter, interlace] = reader.take(5);
  if (width === 0 || height === 0 || width > 0x7fffffff || height > 0x7fffffff) {
    throw new FrameFileError('corrupt', `The header gives an impossible size, ${width} x ${height}.`);
  }
  if (!ALLOWED_DEPTHS[colourType]?.includes(bitDepth)) {
    throw new FrameFileError('corrupt', `The header pairs colour type ${colourType} with ${bitDepth} bits, which PNG does not have.`);
  }
  if (compression !== 0 || filter !== 0 || interlace > 1) {
    throw new FrameFileError('corrupt', 'The header names a compression, filter or interlace method that PNG does not have.');
  }
  return { width, height, bitDepth, colourType, interlaced: interlace === 1 } as PngImageHeader;
}

/** Walks the chunks from `position`, without reading their data. @throws FrameFileError */
export function* walkChunks(source: ByteSource, position = PNG_SIGNATURE.length): Generator<PngChunk> {
  while (position < source.size) {
    if (position + CHUNK_OVERHEAD > source.size) throw cutShort(source);
    const reader = new ByteReader(source.read(position, 8), { littleEndian: false });
    const length = reader.uint32();
    const letters = reader.take(4);
    // Chunk types are four ASCII letters (section 5.4); anything else means that we are lost.
    if (!letters.every((letter) => (letter >= 65 && letter <= 90) || (letter >= 97 && letter <= 122))) {
      throw new FrameFileError('corrupt', `There is no chunk at byte ${position}, where one should begin.`);
    }
    if (position + CHUNK_OVERHEAD + length > source.size) {
      // A damaged length also points past the end, but then the file still ends as it should.
      if (endsWithEnd(source)) throw new FrameFileError('corrupt', `The chunk at byte ${position} gives an impossible length, ${length}.`);
      throw cutShort(source);
    }
    yield { type: String.fromCharCode(...letters), offset: position + 8, length };
    position += CHUNK_OVERHEAD + length;
  }
}

function cutShort(source: ByteSource): FrameFileError {
  return new FrameFileError('truncated', `The file ends after ${source.size} bytes, in the middle of the picture.`);
}

const IEND = Uint8Array.of(0, 0, 0, 0, 0x49, 0x45, 0x4e, 0x44, 0xae, 0x42, 0x60, 0x82);

/** Whether the last bytes are the whole IEND chunk. */
export function endsWithEnd(source: ByteSource): boolean {
  if (source.size < IEND.length) return false;
  const tail = source.read(source.size - IEND.length, IEND.length);
  return IEND.every((byte, i) => byte === tail[i]);
}

/** What stands between IHDR and the first IDAT, as far as the checks want it. */
export interface PngPreamble {
  readonly image: PngImageHeader;
  /** pHYs as width of a pixel over its height, where present. */
  readonly pixelAspect: number | null;
  readonly hasTransparency: boolean;
  /** What the writer noted, by keyword. */
  readonly notes: Readonly<Record<string, string>>;
  /** Place of the first IDAT's data; null where there is none. */
  readonly firstData: PngChunk | null;
  /** What kept the chunks from being read up to there; null where nothing did. */
  readonly broken: FrameFileError | null;
}

const MAXIMUM_CHUNKS_BEFORE_PIXELS = 10_000;

/** Reads IHDR and the chunks before the pixels. @throws FrameFileError */
export function readPreamble(source: ByteSource): PngPreamble {
  const image = readImageHeader(source);
  let pixelAspect: number | null = null;
  let hasTransparency = false;
  const notes: Record<string, string> = {};
  let count = 0;
  let firstData: PngChunk | null = null;
  let broken: FrameFileError | null = null;
  try {
    for (const chunk of walkChunks(source)) {
      if (chunk.type === 'IDAT') firstData = chunk;
      if (chunk.type === 'IDAT' || chunk.type === 'IEND') break;
      if (++count > MAXIMUM_CHUNKS_BEFORE_PIXELS) throw new FrameFileError('corrupt', 'There are over 10,000 chunks before the pixels.');
      addTextNote(notes, source, chunk);
      if (chunk.type === 'tRNS') hasTransparency = true;
      if (chunk.type === 'pHYs' && chunk.length === 9) {
        const reader = new ByteReader(source.read(chunk.offset, 9), { littleEndian: false });
        const [perUnitX, perUnitY] = [reader.uint32(), reader.uint32()];
        // Pixels per unit: twice as many across means pixels half as wide (section 11.3.4.3).
        if (perUnitX > 0 && perUnitY > 0) pixelAspect = perUnitY / perUnitX;
      }
    }
  } catch (thrown) {
    // What the picture is to be has been said by then; what is the matter is told by whoever asks for more.
    if (!(thrown instanceof FrameFileError)) throw thrown;
    broken = thrown;
  }
  return { image, pixelAspect, hasTransparency, notes, firstData, broken };
}

/** The channels that the pixels decode to. */
export function pngChannels(preamble: PngPreamble): ChannelInfo[] {
  const { colourType, bitDepth } = preamble.image;
  const names: Record<PngImageHeader['colourType'], string[]> = {
    0: ['Y'],
    2: ['R', 'G', 'B'],
    3: ['R', 'G', 'B'],
    4: ['Y', 'A'],
    6: ['R', 'G', 'B', 'A'],
  };
  const list = [...names[colourType]];
  // A colour or palette entry that counts as transparent (section 11.3.1.1) makes an alpha channel.
  if (!list.includes('A') && preamble.hasTransparency) list.push('A');
  // A palette's entries have 8 bits whatever its indices have (section 11.2.2).
  const depth = String(colourType === 3 ? 8 : bitDepth) as ChannelInfo['depth'];
  return list.map((name) => ({ name, depth }));
}

/** The header in the words that all formats share. */
export function pngFrameHeader(preamble: PngPreamble): FrameHeader {
  return {
    format: 'png',
    width: preamble.image.width,
    height: preamble.image.height,
    pixelAspect: preamble.pixelAspect,
    channels: pngChannels(preamble),
    namedChannels: false,
    compression: 'deflate',
    dataWindow: null,
    displayWindow: null,
    metadata: preamble.notes,
  };
}

/** Checks a chunk's CRC over type and data (section 5.5). @throws FrameFileError */
export function checkChunkCrc(bytes: Uint8Array, chunk: PngChunk, tools: Pick<CodecTools, 'crc32'>): void {
  const end = chunk.offset + chunk.length;
  const stored = ((bytes[end] << 24) | (bytes[end + 1] << 16) | (bytes[end + 2] << 8) | bytes[end + 3]) >>> 0;
  if (tools.crc32(bytes.subarray(chunk.offset - 4, end)) !== stored) {
    throw new FrameFileError('corrupt', `The checksum of the ${chunk.type} chunk at byte ${chunk.offset - 8} does not match its data.`);
  }
}
