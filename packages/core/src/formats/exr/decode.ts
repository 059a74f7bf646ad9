import { memorySource, type ByteSource } from '../byte-source.ts';
import { FrameFileError, NotDecodedError } from '../errors.ts';
import { MAXIMUM_DECODED_BYTES, type CodecTools, type DecodedFrame, type Plane, type StructureReport } from '../frame.ts';
import { readExrLayout } from './check.ts';
import { bytesPerSample, linesCovered, listChunks, partSize, readChunkHeader, samplesAcross, unpackedSize, type ChunkData, type ChunkPlace } from './chunks.ts';
import { unpackRle, unpackZip } from './compression.ts';
import { channelPath, exrFrameHeader, type ExrHeader, type ExrPart } from './header.ts';

/** A channel being filled: its plane, and its bytes for copying whole lines. */
interface Target {
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
 * @throws FrameFileError when damaged, NotDecodedError for deep parts and for compressions that
 * are not decoded here (their structure has been checked by then)
 */
export function decodeExr(bytes: Uint8Array, tools: CodecTools): { frame: DecodedFrame; report: StructureReport } {
  const source = memorySource(bytes);
  const { header, tables } = readExrLayout(source);
  const chunks = locateChunks(source, header, tables);
  const undecoded = header.parts.map(whyNotDecoded).find((reason) => reason !== null);
  if (undecoded) throw new NotDecodedError(undecoded);
  const targets = header.parts.map((part) => makeTargets(header, part, bytes.length));
  let end = 0;
  for (const { place, data } of chunks) {
    const part = header.parts[place.part];
    const pixels = unpackChunk(part, bytes.subarray(data.offset, data.end), unpackedSize(part, place), data.offset, tools);
    if (place.fullSize) spread(pixels, place, targets[place.part]);
    end = Math.max(end, data.end);
  }
  const planes = targets.flatMap((list) => list.map((target) => target.plane));
  return { frame: { header: exrFrameHeader(header), planes }, report: { trailingBytes: bytes.length - end } };
}

/** Walks all chunks before anything is allocated for their pixels, so that a cut file is told as such. */
function locateChunks(source: ByteSource, header: ExrHeader, tables: readonly Float64Array[]): { place: ChunkPlace; data: ChunkData }[] {
  const located: { place: ChunkPlace; data: ChunkData }[] = [];
  const seen = new Set<number>();
  header.parts.forEach((part, index) => {
    let row = 0;
    for (const place of listChunks(part, index)) {
      const offset = tables[index][row++];
      if (offset === undefined) break;
      if (seen.has(offset)) throw new FrameFileError('corrupt', `Two entries of the chunk table point to byte ${offset}.`);
      seen.add(offset);
      located.push({ place, data: readChunkHeader(source, header, place, offset) });
    }
  });
  return located;
}

function whyNotDecoded(part: ExrPart): string | null {
  if (part.deep) return 'Deep pixels cannot be looked into; the structure of the file is whole.';
  if (!['none', 'rle', 'zips', 'zip'].includes(part.compression)) {
    return `Pixels packed with ${part.compression} cannot be looked into; the structure of the file is whole.`;
  }
  return null;
}

function makeTargets(header: ExrHeader, part: ExrPart, fileSize: number): Target[] {
  const [width, height] = partSize(part);
  const whole: ChunkPlace = { part: 0, left: part.dataWindow[0], top: part.dataWindow[1], width, height, fullSize: true, label: [] };
  const total = unpackedSize(part, whole);
  // Run lengths make at most 64 bytes of one, deflate 1032: a header that promises more lies.
  const ratio = { none: 1, rle: 64, zips: 1032, zip: 1032 }[part.compression as 'none' | 'rle' | 'zips' | 'zip'];
  if (total > fileSize * ratio) {
    throw new FrameFileError('corrupt', `The header promises ${width} x ${height} pixels, more than the file can hold.`);
  }
  if (total > MAXIMUM_DECODED_BYTES) throw new NotDecodedError(`The picture of ${width} x ${height} pixels is too large to look into.`);
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

function unpackChunk(part: ExrPart, packed: Uint8Array, size: number, offset: number, tools: CodecTools): Uint8Array {
  // Stored as it is where packing would not have made it smaller.
  if (packed.length === size) return packed;
  if (part.compression === 'none') {
    throw new FrameFileError('corrupt', `The chunk at byte ${offset} holds ${packed.length} bytes where its pixels need ${size}.`);
  }
  try {
    return part.compression === 'rle' ? unpackRle(packed, size) : unpackZip(packed, size, tools);
  } catch (thrown) {
    throw new FrameFileError('corrupt', `The chunk at byte ${offset} cannot be unpacked: ${thrown instanceof Error ? thrown.message : thrown}.`);
  }
}

/** Copies a chunk's lines to their planes: line by line, and in a line channel by channel. */
function spread(pixels: Uint8Array, place: ChunkPlace, targets: readonly Target[]): void {
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
