import { PackedDataError } from '../../errors.ts';
import { ByteReader } from '../../byte-source.ts';
import type { CodecTools } from '../../frame.ts';
import { floatToHalf, halfToFloat } from '../half.ts';
import { inverseCosine, readCoefficients } from './cosine.ts';
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
    set.forEach((index, i) => (planes[index] = asStored(layout, index, halves[i])));
  }
  layout.channels.forEach((channel, index) => {
    if (planes[index]) return;
    const size = channel.across * channel.lines * channel.sampleBytes;
    if (schemes[index] === 'cosine') {
      const [halves] = unpackCosine(layout, [index], codes, lowest, at, !channel.perceptuallyLinear);
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
  const out = new Uint8Array(planes.length);
  const count = planes.length / sampleBytes;
  for (let b = 0; b < sampleBytes; b++) for (let i = 0; i < count; i++) out[i * sampleBytes + b] = planes[b * count + i];
  return out;
}

function asStored(layout: ChunkLayout, index: number, halves: Uint16Array): Uint8Array {
  return new Uint8Array(layout.channels[index].type === 'half' ? halves.buffer : Float32Array.from(halves, halfToFloat).buffer);
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
  const [blocksAcross, blocksDown] = [Math.ceil(across / 8), Math.ceil(lines / 8)];
  if (at.lowest + set.length * blocksAcross * blocksDown > lowest.length) throw new PackedDataError('its lowest coefficients end too early');
  const out = set.map(() => new Uint16Array(across * lines));
  const blocks = set.map(() => new Float64Array(64));
  for (let by = 0; by < blocksDown; by++) {
    for (let bx = 0; bx < blocksAcross; bx++) {
      blocks.forEach((block, c) => {
        const first = lowest[at.lowest + c * blocksAcross * blocksDown + by * blocksAcross + bx];
        at.code = readCoefficients(block, first, codes, at.code);
        inverseCosine(block);
      });
      if (set.length === 3) toRgb(blocks[0], blocks[1], blocks[2]);
      const [maxX, maxY] = [Math.min(8, across - bx * 8), Math.min(8, lines - by * 8)];
      blocks.forEach((block, c) => {
        for (let y = 0; y < maxY; y++) {
          const row = (by * 8 + y) * across + bx * 8;
          for (let x = 0; x < maxX; x++) {
            const half = floatToHalf(block[y * 8 + x]);
            out[c][row + x] = curved ? toLinear()[half] : half;
          }
        }
      });
    }
  }
  at.lowest += set.length * blocksAcross * blocksDown;
  return out;
}

/** Inverse of the BT.709 luma and chroma transform, with the format's own rounded factors. */
function toRgb(y: Float64Array, cb: Float64Array, cr: Float64Array): void {
  for (let i = 0; i < 64; i++) {
    const [luma, blue, red] = [y[i], cb[i], cr[i]];
    y[i] = luma + 1.5747 * red;
    cb[i] = luma - 0.1873 * blue - 0.4682 * red;
    cr[i] = luma + 1.8556 * blue;
  }
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
