import { pairBytes, unpackCosineBlocks } from '../../../kernels/index.ts';
import { PackedDataError } from '../../errors.ts';
import { ByteReader } from '../../byte-source.ts';
import type { CodecTools } from '../../frame.ts';
import { floatToHalf, halfToFloat } from '../half.ts';
import { classifyChannels, oldDwaRules, readDwaRules } from './dwa-rules.ts';
import { unpackHuffman } from './huffman.ts';
import { interleave, type ChunkLayout } from './layout.ts';
import { expandRuns, unpackZip } from './zip-and-rle.ts';

/**
 * Undoes dwaa and dwab (OpenEXR, ImfDwaCompressor): colours as 8 x 8 cosine blocks of values on a
 * perceptual curve, alpha as run lengths, everything else deflated. What was lost stays lost.
 */
export function unpackDwa(packed: Uint8Array, layout: ChunkLayout, tools: CodecTools): Uint8Array {
  const reader = new ByteReader(packed, { littleEndian: true });
  const [version, unknownSize, unknownPacked, acPacked, dcPacked, rlePacked, rleDeflated, rleSize, acCount, dcCount, acMethod] = Array.from(
    { length: 11 },
    () => reader.uint64(),
  );
  if (version > 2 || acMethod > 1) throw new PackedDataError(`its version ${version} is not known`);
  if ([unknownSize, rleDeflated, rleSize, acCount * 2, dcCount * 2].some((size) => size > layout.size * 4 + 4096))
    throw new PackedDataError('its sizes are impossible');
  const { schemes, colourSets } = classifyChannels(layout, version < 2 ? oldDwaRules() : readDwaRules(reader));
  const unknown = unknownPacked > 0 ? exactly(tools.inflate(reader.take(unknownPacked), unknownSize), unknownSize) : new Uint8Array(0);
  const acBytes = reader.take(acPacked);
  const codes =
    acPacked === 0 ? new Uint16Array(0) : acMethod === 0 ? unpackHuffman(acBytes, acCount) : words(exactly(tools.inflate(acBytes, acCount * 2), acCount * 2));
  const lowest = dcPacked > 0 ? words(unpackZip(reader.take(dcPacked), dcCount * 2, tools)) : new Uint16Array(0);
  const runs = rlePacked > 0 ? expandRuns(exactly(tools.inflate(reader.take(rlePacked), rleDeflated), rleDeflated), rleSize) : new Uint8Array(0);

  const planes: Uint8Array[] = [];
  const at = { code: 0, lowest: 0, unknown: 0, run: 0 };
  for (const set of colourSets) {
    const halves = unpackCosine(layout, set, codes, lowest, at, true);
    set.forEach((index, i) => (planes[index] = asStored(layout, index, halves[i]!)));
  }
  layout.channels.forEach((channel, index) => {
    if (planes[index]) return;
    const size = channel.across * channel.lines * channel.sampleBytes;
    if (schemes[index] === 'cosine') {
      const halves = unpackCosine(layout, [index], codes, lowest, at, !channel.perceptuallyLinear)[0]!;
      planes[index] = asStored(layout, index, halves);
    } else if (schemes[index] === 'rle') {
      planes[index] = joinBytePlanes(exactly(runs.subarray(at.run, at.run + size), size), channel.sampleBytes);
      at.run += size;
    } else {
      planes[index] = exactly(unknown.subarray(at.unknown, at.unknown + size), size);
      at.unknown += size;
    }
  });
  return interleave(layout, planes);
}

function exactly(bytes: Uint8Array, size: number): Uint8Array {
  if (bytes.length !== size) throw new PackedDataError(`it gives ${bytes.length} bytes where ${size} are needed`);
  return bytes;
}

function words(bytes: Uint8Array): Uint16Array {
  const out = new Uint16Array(bytes.length / 2);
  for (let i = 0; i < out.length; i++) out[i] = bytes[2 * i] | (bytes[2 * i + 1] << 8);
  return out;
}

/** All first bytes, then all second bytes, …: back to samples. */
function joinBytePlanes(planes: Uint8Array, sampleBytes: number): Uint8Array {
  if (sampleBytes === 2) return pairBytes(planes);
  const out = new Uint8Array(planes.length);
  const count = planes.length / sampleBytes;
  for (let b = 0; b < sampleBytes; b++) for (let i = 0; i < count; i++) out[i * sampleBytes + b] = planes[b * count + i];
  return out;
}

function asStored(layout: ChunkLayout, index: number, halves: Uint16Array): Uint8Array {
  return new Uint8Array(layout.channels[index]!.type === 'half' ? halves.buffer : Float32Array.from(halves, halfToFloat).buffer);
}

/** Decodes the blocks of one channel, or of three that share the colour transform, as halves. */
function unpackCosine(
  layout: ChunkLayout,
  set: readonly number[],
  codes: Uint16Array,
  lowest: Uint16Array,
  at: { code: number; lowest: number },
  curved: boolean,
): Uint16Array[] {
  const { across, lines } = layout.channels[set[0]];
  const blocks = set.length * Math.ceil(across / 8) * Math.ceil(lines / 8);
  if (at.lowest + blocks > lowest.length) throw new PackedDataError('its lowest coefficients end too early');
  const own = lowest.subarray(at.lowest, at.lowest + blocks);
  const unpacked = unpackCosineBlocks(codes.subarray(at.code), own, set.length === 3 ? 3 : 1, across, lines, curved ? toLinear() : null);
  if (!unpacked) throw new PackedDataError('its coefficients end too early');
  at.code += unpacked.used;
  at.lowest += blocks;
  return unpacked.halves;
}

let linearTable: Uint16Array | null = null;

/** From the perceptual curve back to linear: a power of 2.2 up to 1, exponential beyond. */
function toLinear(): Uint16Array {
  linearTable ??= Uint16Array.from({ length: 65536 }, (_, bits) => {
    const value = halfToFloat(bits);
    if (!Number.isFinite(value)) return 0;
    const size = Math.abs(value);
    return floatToHalf(Math.sign(value) * (size <= 1 ? size ** 2.2 : Math.exp(2.2 * (size - 1))));
  });
  return linearTable;
}
