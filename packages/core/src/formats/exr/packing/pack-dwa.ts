import type { EncoderTools } from '../../frame.ts';
import { floatToHalf, halfToFloat } from '../half.ts';
import { classifyChannels, dwaRules, writeDwaRules } from './dwa-rules.ts';
import { forEachPiece, type ChunkChannel, type ChunkLayout } from './layout.ts';
import { packHuffman } from './pack-huffman.ts';
import { deflateHalves, packRuns } from './zip-and-rle.ts';

const VERSION = 2;
const FIELDS = 11;
/** The usual compression level of the OpenEXR library, 45, over its scale. */
const BASE_ERROR = 45 / 100_000;
/** Behind it nothing of a block is left but zeros; with a number below, so many zeros come. */
const END_OF_BLOCK = 0xff00;

/** Tables K.1 and K.2 of ITU-T T.81, each over its smallest: what eyes forgive. */
// prettier-ignore
const LUMA = [
  16, 11, 10, 16, 24, 40, 51, 61, 12, 12, 14, 19, 26, 58, 60, 55, 14, 13, 16, 24, 40, 57, 69, 56, 14, 17, 22, 29, 51, 87, 80, 62,
  18, 22, 37, 56, 68, 109, 103, 77, 24, 35, 55, 64, 81, 104, 113, 92, 49, 64, 78, 87, 103, 121, 120, 101, 72, 92, 95, 98, 112, 100, 103, 99,
].map((step) => (BASE_ERROR * step) / 10);
// prettier-ignore
const CHROMA = [
  17, 18, 24, 47, 99, 99, 99, 99, 18, 21, 26, 66, 99, 99, 99, 99, 24, 26, 56, 99, 99, 99, 99, 99, 47, 66, 99, 99, 99, 99, 99, 99,
  ...new Array<number>(32).fill(99),
].map((step) => (BASE_ERROR * step) / 17);

/** Where the coefficients of a block stand in the zigzag (ITU-T T.81, figure A.6). */
// prettier-ignore
const ZIGZAG = [
  0, 1, 8, 16, 9, 2, 3, 10, 17, 24, 32, 25, 18, 11, 4, 5, 12, 19, 26, 33, 40, 48, 41, 34, 27, 20, 13, 6, 7, 14, 21, 28,
  35, 42, 49, 56, 57, 50, 43, 36, 29, 22, 15, 23, 30, 37, 44, 51, 58, 59, 52, 45, 38, 31, 39, 46, 53, 60, 61, 54, 47, 55, 62, 63,
];

/**
 * Packs a chunk with dwaa or dwab (OpenEXR, ImfDwaCompressor): see unpackDwa. A coefficient becomes the number with the fewest
 * digits that is as near as its place in the block asks for. Null when it would not become smaller.
 */
export function packDwa(pixels: Uint8Array, layout: ChunkLayout, tools: EncoderTools): Uint8Array | null {
  const planes = layout.channels.map(({ across, lines, sampleBytes }) => new Uint8Array(across * lines * sampleBytes));
  forEachPiece(layout, (c, line, position, length) => planes[c]!.set(pixels.subarray(position, position + length), line * length));
  const { schemes, colourSets } = classifyChannels(layout, dwaRules());
  const codes: number[] = [];
  const lowest: number[] = [];
  const isInSet = new Set<number>(colourSets.flat());
  const colours = (set: readonly number[]) =>
    packCosine(
      set.map((index) => curved(planes[index]!, layout.channels[index]!)),
      layout.channels[set[0]!]!,
      codes,
      lowest,
    );
  for (const set of colourSets) colours(set);
  const unknown: Uint8Array[] = [];
  const runs: Uint8Array[] = [];
  layout.channels.forEach(({ sampleBytes }, index) => {
    if (isInSet.has(index)) return;
    if (schemes[index] === 'cosine') colours([index]);
    else if (schemes[index] === 'rle') runs.push(splitBytes(planes[index]!, sampleBytes));
    else unknown.push(planes[index]!);
  });
  const [plain, alpha] = [join(unknown), join(runs)];
  const packedRuns = packRuns(alpha);
  const packed = {
    unknown: plain.length > 0 ? tools.deflate(plain) : plain,
    codes: packHuffman(Uint16Array.from(codes)),
    lowest: lowest.length > 0 ? deflateHalves(new Uint8Array(Uint16Array.from(lowest).buffer), tools) : new Uint8Array(0),
    runs: packedRuns.length > 0 ? tools.deflate(packedRuns) : packedRuns,
  };
  const sizes = [VERSION, plain.length, packed.unknown.length, packed.codes.length, packed.lowest.length, packed.runs.length];
  sizes.push(packedRuns.length, alpha.length, codes.length, lowest.length, 0);
  const head = new Uint8Array(8 * FIELDS);
  sizes.forEach((value, i) => new DataView(head.buffer).setBigUint64(8 * i, BigInt(value), true));
  const out = join([head, writeDwaRules(), packed.unknown, packed.codes, packed.lowest, packed.runs]);
  return out.length < pixels.length ? out : null;
}

function join(pieces: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(pieces.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}

/** All first bytes of the samples, then all second ones, … */
function splitBytes(plane: Uint8Array, sampleBytes: number): Uint8Array {
  const count = plane.length / sampleBytes;
  return Uint8Array.from(plane, (_, i) => plane[(i % count) * sampleBytes + Math.floor(i / count)]!);
}

let curveTable: Float32Array | null = null;

/** To the perceptual curve: the root of 2.2 up to 1, logarithmic beyond; what is no number becomes zero. */
function toCurve(): Float32Array {
  curveTable ??= Float32Array.from({ length: 65536 }, (_, bits) => {
    const value = halfToFloat(bits);
    if (!Number.isFinite(value)) return 0;
    const size = Math.abs(value);
    return halfToFloat(floatToHalf(Math.sign(value) * (size <= 1 ? size ** (1 / 2.2) : Math.log(size) / 2.2 + 1)));
  });
  return curveTable;
}

function curved(plane: Uint8Array, { type }: ChunkChannel): Float32Array {
  const table = toCurve();
  if (type === 'half') {
    const halves = new Uint16Array(plane.buffer);
    const out = new Float32Array(halves.length);
    for (let i = 0; i < out.length; i++) out[i] = table[halves[i]!]!;
    return out;
  }
  const floats = new Float32Array(plane.buffer);
  const out = new Float32Array(floats.length);
  for (let i = 0; i < out.length; i++) out[i] = table[floatToHalf(floats[i]!)]!;
  return out;
}

/** Packs one channel, or red, green and blue together, block by block. */
function packCosine(channels: readonly Float32Array[], { across, lines }: ChunkChannel, codes: number[], lowest: number[]): void {
  const [blocksAcross, blocksDown] = [Math.ceil(across / 8), Math.ceil(lines / 8)];
  const start = lowest.length;
  const isColour = channels.length === 3;
  const blocks = channels.map(() => new Float32Array(64));
  const halves = new Uint16Array(64);
  for (let by = 0; by < blocksDown; by++) {
    for (let bx = 0; bx < blocksAcross; bx++) {
      for (let c = 0; c < channels.length; c++) readBlock(blocks[c]!, channels[c]!, bx * 8, by * 8, across, lines);
      if (isColour) toLuma(blocks);
      blocks.forEach((block, c) => {
        transform(block);
        const steps = c === 0 ? LUMA : CHROMA;
        for (let k = 0; k < 64; k++) halves[k] = fewestDigits(block[ZIGZAG[k]!]!, steps[ZIGZAG[k]!]!);
        lowest[start + (c * blocksDown + by) * blocksAcross + bx] = halves[0]!;
        packBlock(halves, codes);
      });
    }
  }
}

/** The samples of a block; beyond the edge the last ones go on. */
function readBlock(block: Float32Array, values: Float32Array, left: number, top: number, across: number, lines: number): void {
  for (let y = 0; y < 8; y++) {
    const row = Math.min(lines - 1, top + y) * across;
    for (let x = 0; x < 8; x++) block[y * 8 + x] = values[row + Math.min(across - 1, left + x)]!;
  }
}

/** ITU-R BT.709, with the factors of the format. */
function toLuma([red, green, blue]: readonly Float32Array[]): void {
  for (let i = 0; i < 64; i++) {
    const r = red![i]!;
    const g = green![i]!;
    const b = blue![i]!;
    red![i] = 0.2126 * r + 0.7152 * g + 0.0722 * b;
    green![i] = -0.1146 * r - 0.3854 * g + 0.5 * b;
    blue![i] = 0.5 * r - 0.4542 * g - 0.0458 * b;
  }
}

const COSINES = Float64Array.from({ length: 64 }, (_, i) => {
  const [k, x] = [i >> 3, i & 7];
  return (k === 0 ? Math.SQRT1_2 : 1) * 0.5 * Math.cos(((2 * x + 1) * k * Math.PI) / 16);
});
const between = new Float64Array(64);

/** The cosine transform of a block, in place (ITU-T T.81, annex A.3.3). */
function transform(block: Float32Array): void {
  for (let y = 0; y < 8; y++) transformLine(block, y * 8, 1, between, y * 8, 1);
  for (let x = 0; x < 8; x++) transformLine(between, x, 8, block, x, 8);
}

/** Eight samples: cosines are the same from either end, but for their sign, so that sums and differences of pairs are enough. */
function transformLine(from: Float32Array | Float64Array, start: number, step: number, to: Float32Array | Float64Array, at: number, stride: number): void {
  const a = from[start]!;
  const b = from[start + step]!;
  const c = from[start + 2 * step]!;
  const d = from[start + 3 * step]!;
  const e = from[start + 4 * step]!;
  const f = from[start + 5 * step]!;
  const g = from[start + 6 * step]!;
  const h = from[start + 7 * step]!;
  for (let k = 0; k < 8; k += 2) {
    const row = k * 8;
    to[at + k * stride] = COSINES[row]! * (a + h) + COSINES[row + 1]! * (b + g) + COSINES[row + 2]! * (c + f) + COSINES[row + 3]! * (d + e);
    to[at + (k + 1) * stride] = COSINES[row + 8]! * (a - h) + COSINES[row + 9]! * (b - g) + COSINES[row + 10]! * (c - f) + COSINES[row + 11]! * (d - e);
  }
}

const MANTISSA_BITS = 10;

/** The half with the fewest digits that is no further from a value than that. */
function fewestDigits(value: number, tolerance: number): number {
  if (Math.abs(value) <= tolerance) return 0;
  const exact = floatToHalf(value);
  for (let digits = MANTISSA_BITS; digits > 0; digits--) {
    const rounded = (exact + (1 << (digits - 1))) & ~((1 << digits) - 1) & 0xffff;
    if ((rounded & 0x7c00) !== 0x7c00 && Math.abs(halfToFloat(rounded) - value) <= tolerance) return rounded;
  }
  return exact;
}

/** All coefficients of a block but the lowest; runs of zeros counted. */
function packBlock(halves: Uint16Array, codes: number[]): void {
  for (let k = 1; k < 64;) {
    let zeros = 0;
    while (k + zeros < 64 && halves[k + zeros] === 0) zeros++;
    if (k + zeros === 64) {
      codes.push(END_OF_BLOCK);
      return;
    }
    if (zeros > 1) codes.push(END_OF_BLOCK | zeros);
    else if (zeros === 1) codes.push(0);
    codes.push(halves[k + zeros]!);
    k += zeros + 1;
  }
}
