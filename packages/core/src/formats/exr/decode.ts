import { PastEndError, type ByteSource } from '../byte-source.ts';
import { FrameFileError, NotDecodedError, PackedDataError } from '../errors.ts';
import { boundDecoded, type CodecTools, type Decoded, type PlainPixels, type Plane } from '../frame.ts';
import { readExrLayout } from './check.ts';
import { bytesPerSample, linesCovered, listChunks, partSize, readChunkHeader, samplesAcross, unpackedSize, type ChunkData, type ChunkPlace } from './chunks.ts';
import { unpackB44 } from './packing/b44.ts';
import { unpackDwa } from './packing/dwa.ts';
import type { ChunkLayout } from './packing/layout.ts';
import { unpackPiz } from './packing/piz.ts';
import { unpackPxr24 } from './packing/pxr24.ts';
import { unpackRle, unpackZip } from './packing/zip-and-rle.ts';
import { channelPath, exrFrameHeader, type ExrCompression, type ExrHeader, type ExrPart } from './header.ts';

/** A channel being filled: its plane, and its bytes for copying whole lines. */
export interface Target {
  readonly plane: Plane;
  readonly bytes: Uint8Array;
  readonly sampleBytes: number;
  readonly xSampling: number;
  readonly ySampling: number;
  readonly left: number;
  readonly top: number;
}

/**
 * Checks every chunk and decodes every channel of every part at full size. Planes of a part
 * cover its data window.
 *
 * @throws FrameFileError when damaged, NotDecodedError for deep parts (their structure has been
 * checked by then)
 */
export function decodeExr(source: ByteSource, header: ExrHeader, tools: CodecTools): Decoded {
  const bytes = source.read(0, source.size);
  const { tables } = readExrLayout(source, header);
  const chunks = locateChunks(source, header, tables);
  const undecoded = header.parts.map(whyNotDecoded).find((reason) => reason !== null);
  if (undecoded) throw new NotDecodedError(undecoded);
  boundParts(header, bytes.length);
  const targets = header.parts.map((part) => makeTargets(header, part));
  let end = 0;
  for (const { place, data } of chunks) {
    const part = header.parts[place.part]!;
    const pixels = unpackChunk(part, place, bytes.subarray(data.offset, data.end), data.offset, tools);
    if (place.fullSize) spread(pixels, place, targets[place.part]!);
    end = Math.max(end, data.end);
  }
  const planes = targets.flatMap((list) => list.map((target) => target.plane));
  return { frame: { header: exrFrameHeader(header), planes }, report: { trailingBytes: bytes.length - end, plain: plainPixels(header, chunks) } };
}

/**
 * Chunks that are not packed, or were not because that would not have made them smaller. Where a
 * chunk is a line, those that follow one another are looked at as one stretch, with the bytes
 * before each (its number and length) as a part of the line.
 */
function plainPixels({ parts }: ExrHeader, chunks: readonly { place: ChunkPlace; data: ChunkData }[]): PlainPixels[] {
  const stretches: PlainPixels[] = [];
  let lastPart = -1;
  for (const { place, data } of chunks) {
    const { size } = data;
    if (size !== unpackedSize(parts[place.part]!, place)) continue;
    const last = stretches.at(-1);
    const between = last === undefined ? 0 : data.offset - last.end;
    if (last && place.height === 1 && place.part === lastPart && between > 0 && between <= LONGEST_CHUNK_HEADER) {
      stretches[stretches.length - 1] = { ...last, end: data.end, lineBytes: size + between };
    } else stretches.push({ start: data.offset, end: data.end, lineBytes: Math.max(1, Math.floor(size / place.height)) });
    lastPart = place.part;
  }
  return stretches;
}

/** Part, tile and level numbers and the length, of four bytes each. */
const LONGEST_CHUNK_HEADER = 24;

/** Walks all chunks before anything is allocated for their pixels, so that a cut file is told as such. */
function locateChunks(source: ByteSource, header: ExrHeader, tables: readonly Float64Array[]): { place: ChunkPlace; data: ChunkData }[] {
  const located: { place: ChunkPlace; data: ChunkData }[] = [];
  const seen = new Set<number>();
  header.parts.forEach((part, index) => {
    let row = 0;
    for (const place of listChunks(part, index)) {
      const offset = tables[index]![row++];
      if (offset === undefined) break;
      if (seen.has(offset)) throw new FrameFileError('corrupt', `Two entries of the chunk table point to byte ${offset}.`);
      seen.add(offset);
      located.push({ place, data: readChunkHeader(source, header, place, offset) });
    }
  });
  return located;
}

export function whyNotDecoded(part: ExrPart): string | null {
  return part.deep ? 'Deep pixels cannot be looked into; the structure of the file is whole.' : null;
}

/**
 * How many bytes one packed byte can become at most: run lengths make 64 of one, deflate 1032, the
 * Huffman runs of piz 510 of nine bits, b44 32 of three; a cosine block of 64 samples may come
 * from a deflated pair of bytes.
 */
const LARGEST_RATIO: Record<ExrCompression, number> = {
  none: 1,
  rle: 64,
  zips: 1032,
  zip: 1032,
  piz: 454,
  pxr24: 1376,
  b44: 11,
  b44a: 11,
  dwaa: 1032 * 64,
  dwab: 1032 * 64,
};

/** The whole picture of a part as one place. */
function wholePart(part: ExrPart): ChunkPlace {
  const [width, height] = partSize(part);
  return { part: 0, left: part.dataWindow[0], top: part.dataWindow[1], width, height, fullSize: true, label: [] };
}

/** Holds what the header promises of all parts against the file's size and against what is decoded at all. */
export function boundParts({ parts }: ExrHeader, fileSize: number): void {
  let total = 0;
  let packed = 0;
  for (const part of parts) {
    const [width, height] = partSize(part);
    const size = unpackedSize(part, wholePart(part));
    packed += size / LARGEST_RATIO[part.compression];
    if (packed > fileSize) {
      throw new FrameFileError('corrupt', `The header promises ${width} x ${height} pixels, more than the file can hold.`);
    }
    boundDecoded((total += size), width, height);
  }
}

export function makeTargets(header: ExrHeader, part: ExrPart): Target[] {
  const whole = wholePart(part);
  return part.channels.map((channel) => {
    const planeWidth = samplesAcross(whole, channel.xSampling);
    const planeHeight = linesCovered(whole, channel.ySampling);
    const count = planeWidth * planeHeight;
    const data = channel.type === 'half' ? new Uint16Array(count) : channel.type === 'float' ? new Float32Array(count) : new Uint32Array(count);
    return {
      plane: { channel: channelPath(header, part, channel), type: channel.type, width: planeWidth, height: planeHeight, data, offset: 0, stride: 1 },
      bytes: new Uint8Array(data.buffer),
      sampleBytes: bytesPerSample(channel.type),
      xSampling: channel.xSampling,
      ySampling: channel.ySampling,
      left: Math.ceil(whole.left / channel.xSampling),
      top: Math.ceil(whole.top / channel.ySampling),
    };
  });
}

export function unpackChunk(part: ExrPart, place: ChunkPlace, packed: Uint8Array, offset: number, tools: CodecTools): Uint8Array {
  const size = unpackedSize(part, place);
  // Stored as it is where packing would not have made it smaller.
  if (packed.length === size) return packed;
  if (part.compression === 'none') {
    throw new FrameFileError('corrupt', `The chunk at byte ${offset} holds ${packed.length} bytes where its pixels need ${size}.`);
  }
  try {
    return unpack(part.compression, packed, layOutChunk(part, place, size), tools);
  } catch (thrown) {
    // What the shared reader of bytes runs into is a stream that ends too early.
    if (!(thrown instanceof PackedDataError || thrown instanceof PastEndError)) throw thrown;
    throw new FrameFileError(
      'corrupt',
      `The chunk at byte ${offset} cannot be unpacked: ${thrown instanceof PastEndError ? 'it ends too early' : thrown.message}.`,
    );
  }
}

function unpack(compression: Exclude<ExrCompression, 'none'>, packed: Uint8Array, layout: ChunkLayout, tools: CodecTools): Uint8Array {
  switch (compression) {
    case 'rle':
      return unpackRle(packed, layout.size);
    case 'zips':
    case 'zip':
      return unpackZip(packed, layout.size, tools);
    case 'piz':
      return unpackPiz(packed, layout);
    case 'pxr24':
      return unpackPxr24(packed, layout, tools);
    case 'b44':
    case 'b44a':
      return unpackB44(packed, layout);
    case 'dwaa':
    case 'dwab':
      return unpackDwa(packed, layout, tools);
  }
}

function layOutChunk(part: ExrPart, place: ChunkPlace, size: number): ChunkLayout {
  const channels = part.channels.map((channel) => ({
    ...channel,
    across: samplesAcross(place, channel.xSampling),
    lines: linesCovered(place, channel.ySampling),
    sampleBytes: bytesPerSample(channel.type),
  }));
  return { channels, top: place.top, height: place.height, size };
}

/** Copies a chunk's lines to their planes: line by line, and in a line channel by channel. */
export function spread(pixels: Uint8Array, place: ChunkPlace, targets: readonly Target[]): void {
  let position = 0;
  for (let y = place.top; y < place.top + place.height; y++) {
    for (const target of targets) {
      if (y % target.ySampling !== 0) continue;
      const length = samplesAcross(place, target.xSampling) * target.sampleBytes;
      const column = Math.ceil(place.left / target.xSampling) - target.left;
      const row = y / target.ySampling - target.top;
      const start = (row * target.plane.width + column) * target.sampleBytes;
      target.bytes.set(pixels.subarray(position, position + length), start);
      position += length;
    }
  }
}
