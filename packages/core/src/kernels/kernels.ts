import { aligned, MARGIN, room, type Exports } from './memory.ts';

/** Pieces that are worked on at a time: what goes in and out stays in a processor's own memory. */
const PIECE = 1 << 17;

/**
 * Undoes the differences of EXR's zip and rle, and brings the even and the odd bytes together, which stand in two
 * halves.
 *
 * @returns bytes in the kernels' memory: good until the next call of a kernel
 */
export function joinHalves(split: Uint8Array): Uint8Array {
  return madeOf(split, 'joinHalves');
}

/**
 * The inverse of `joinHalves`: the even and the odd bytes in halves, each byte as a difference.
 *
 * @returns bytes in the kernels' memory: good until the next call of a kernel
 */
export function splitHalves(pixels: Uint8Array): Uint8Array {
  return madeOf(pixels, 'splitHalves');
}

function madeOf(given: Uint8Array, kernel: 'joinHalves' | 'splitHalves'): Uint8Array {
  const size = given.length;
  const { exports, start, bytes } = room(2 * aligned(size));
  const out = start + aligned(size);
  bytes.set(given, start);
  exports[kernel](start, out, size);
  return bytes.subarray(out, out + size);
}

/** Puts the bytes of two halves in turn: the first of either, then the second of either, … */
export function pairBytes(halves: Uint8Array): Uint8Array {
  const count = halves.length >> 1;
  const { exports, start, bytes } = room(2 * aligned(count * 2));
  const out = start + aligned(count * 2);
  bytes.set(halves, start);
  exports.pairBytes(start, start + count, out, count);
  return bytes.slice(out, out + count * 2);
}

/**
 * Undoes PNG's row filters (section 9.2).
 *
 * @param filtered rows of one filter byte and `rowBytes` bytes; what comes out is written over them
 * @param turned whether samples are of 16 bits, which the file keeps with their high byte first and typed arrays do not
 * @returns the rows without filter bytes; or the number of the first row whose filter PNG does not have
 */
export function unfilterRows(filtered: Uint8Array, rowBytes: number, height: number, bytesPerPixel: number, turned: boolean): Uint8Array | number {
  // No row comes out behind where it went in, and new memory would cost as much as the work.
  const rows = filtered.subarray(0, rowBytes * height);
  const atOnce = Math.max(1, Math.min(height, Math.floor(PIECE / (rowBytes + 1))));
  const { exports, start, bytes } = room(aligned((rowBytes + 1) * atOnce) + aligned(rowBytes * (atOnce + 1)));
  // The last row of the piece before stands in front of the rows to come.
  const out = start + aligned((rowBytes + 1) * atOnce) + rowBytes;
  for (let row = 0; row < height; row += atOnce) {
    const count = Math.min(atOnce, height - row);
    bytes.set(filtered.subarray(row * (rowBytes + 1), (row + count) * (rowBytes + 1)), start);
    const odd = exports.unfilterRows(start, out, rowBytes, count, bytesPerPixel, row > 0 ? 1 : 0);
    if (odd >= 0) return row + odd;
    bytes.copyWithin(out - rowBytes, out + rowBytes * (count - 1), out + rowBytes * count);
    if (turned) exports.swapShorts(out, rowBytes * count);
    rows.set(bytes.subarray(out, out + rowBytes * count), row * rowBytes);
  }
  return rows;
}

/** What the values of a channel are like; of integers in code values. */
export interface ValueSums {
  /** Least and largest of the values that are numbers; Infinity and -Infinity where there is none. */
  readonly min: number;
  readonly max: number;
  readonly sum: number;
  readonly nan: number;
  readonly infinite: number;
  readonly negative: number;
  readonly zero: number;
}

const KERNEL_OF = { u8: 'factsOfBytes', u16: 'factsOfShorts', half: 'factsOfHalves', float: 'factsOfFloats' } as const;
const FIGURES = 8;

/**
 * Sums up the values of channels that lie between each other.
 *
 * @param data a multiple of `stride` samples; halves as their 16 bits
 * @returns one entry a channel
 */
export function sumUpValues(type: keyof typeof KERNEL_OF, data: Uint8Array | Uint16Array | Float32Array, stride: number): ValueSums[] {
  const piece = Math.max(1, Math.floor(PIECE / (16 * stride))) * 16 * stride;
  const source = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
  const { exports, start, bytes } = room(aligned(piece) + stride * FIGURES * 8);
  const results = start + aligned(piece);
  const figures = new Float64Array(exports.memory.buffer, results, stride * FIGURES);
  for (let channel = 0; channel < stride; channel++) figures.set([Infinity, -Infinity, 0, 0, 0, 0, 0, 0], channel * FIGURES);
  for (let at = 0; at < source.length; at += piece) {
    const part = source.subarray(at, at + piece);
    bytes.set(part, start);
    exports[KERNEL_OF[type]](start, part.length / data.BYTES_PER_ELEMENT, stride, results);
  }
  return Array.from({ length: stride }, (_, channel) => {
    const [min, max, sum, nan, infinite, negative, zero] = figures.subarray(channel * FIGURES) as Iterable<number> as [
      number,
      number,
      number,
      number,
      number,
      number,
      number,
    ];
    return { min, max, sum, nan, infinite, negative, zero };
  });
}

/** Samples of a picture that lie pixel by pixel in one array. */
export interface PixelSamples {
  readonly data: Uint8Array | Uint16Array | Uint32Array | Float32Array;
  /** Samples of a pixel. */
  readonly stride: number;
  /** Bits of a sample's 32 (or of two of 16) that make it more than zero: all but the signs of halves and floats. */
  readonly mask: number;
}

/** Stretches of pixels that are zero in every array: line, first and last pixel of each, one after the other. */
export type ZeroRuns = Int32Array;

/**
 * Finds stretches of pixels that are exactly zero in all channels.
 *
 * @param arrays of `width` x `height` pixels each
 * @param least shorter stretches are left out
 * @param most a line with more stretches than this gives a single one from -1 to -1
 */
export function findZeroRuns(arrays: readonly PixelSamples[], width: number, height: number, least: number, most: number): ZeroRuns {
  const pixelBytes = arrays.map(({ data, stride }) => data.BYTES_PER_ELEMENT * stride);
  const atOnce = Math.max(1, Math.min(height, Math.floor(PIECE / (width * Math.max(...pixelBytes)))));
  const pixels = width * atOnce;
  const mapSize = aligned(pixels + 2 * MARGIN);
  const dataSize = aligned(pixels * Math.max(...pixelBytes) + 2 * MARGIN);
  const { exports, start: map, bytes } = room(mapSize + dataSize + atOnce * (most + 1) * 12);
  const [samples, out] = [map + mapSize, map + mapSize + dataSize];
  const found: Int32Array[] = [];
  for (let row = 0; row < height; row += atOnce) {
    const lines = Math.min(atOnce, height - row);
    arrays.forEach(({ data, mask }, i) => {
      const line = width * pixelBytes[i];
      bytes.set(new Uint8Array(data.buffer, data.byteOffset + row * line, lines * line), samples);
      exports.markZeros(samples, width * lines, pixelBytes[i], mask, map, i === 0 ? 1 : 0);
    });
    const count = exports.zeroRuns(map, width, lines, least, most, out);
    const runs = new Int32Array(exports.memory.buffer, out, count * 3).slice();
    for (let i = 0; i < runs.length; i += 3) runs[i] += row;
    if (count > 0) found.push(runs);
  }
  const all = new Int32Array(found.reduce((sum, runs) => sum + runs.length, 0));
  let at = 0;
  for (const runs of found) {
    all.set(runs, at);
    at += runs.length;
  }
  return all;
}

/** Halves that are turned into numbers at a time: with the numbers they fit where they are quickly at hand. */
const HALVES_AT_ONCE = 1 << 16;

/** Sums of the values of half floats, each plane of them times its weight. @param out as long as each plane */
export function mixHalves(planes: readonly Uint16Array[], weights: readonly number[], out: Float32Array): void {
  const count = Math.min(HALVES_AT_ONCE, out.length);
  const { exports, start, bytes } = room(aligned(count * 2) + aligned(count * 4));
  const numbers = start + aligned(count * 2);
  const [shorts, floats] = [new Uint16Array(bytes.buffer), new Float32Array(bytes.buffer)];
  for (let from = 0; from < out.length; from += count) {
    const to = Math.min(out.length, from + count);
    floats.fill(0, numbers / 4, numbers / 4 + to - from);
    planes.forEach((halves, i) => {
      shorts.set(halves.subarray(from, to), start / 2);
      exports.addHalves(start, to - from, weights[i]!, numbers);
    });
    out.set(floats.subarray(numbers / 4, numbers / 4 + to - from), from);
  }
}

/** Numbers as half floats (IEEE 754 binary16), each as the nearest. */
export function roundToHalves(values: Float32Array | Float64Array): Uint16Array {
  const count = Math.min(HALVES_AT_ONCE, values.length);
  const { exports, start, bytes } = room(aligned(count * 4) + aligned(count * 2));
  const halves = start + aligned(count * 4);
  const [floats, shorts] = [new Float32Array(bytes.buffer), new Uint16Array(bytes.buffer)];
  const out = new Uint16Array(values.length);
  for (let from = 0; from < out.length; from += count) {
    const to = Math.min(out.length, from + count);
    floats.set(values.subarray(from, to), start / 4);
    exports.roundToHalves(start, to - from, halves);
    out.set(shorts.subarray(halves / 2, halves / 2 + to - from), from);
  }
  return out;
}

/** 1 where all of a pixel's 3 x 3 is 1; never on the outermost ring, whose neighbours are not there. */
export function wholeAround(mask: Uint8Array, width: number, height: number): Uint8Array {
  const size = aligned(mask.length);
  const { exports, start, bytes } = room(2 * size);
  bytes.set(mask, start);
  return wholeIn(exports, bytes, start, start + size, width, height);
}

/**
 * 1 where all of a pixel's 3 x 3 are numbers and covered; never on the outermost ring.
 *
 * @param alpha above 0 where a pixel is covered; null where all are
 */
export function toldAround(luminance: Float32Array, alpha: Float32Array | null, width: number, height: number): Uint8Array {
  const [plane, mask] = [aligned(luminance.byteLength), aligned(luminance.length)];
  const { exports, start, bytes } = room(2 * plane + 2 * mask);
  const floats = new Float32Array(bytes.buffer);
  const told = start + 2 * plane;
  floats.set(luminance, start / 4);
  if (alpha) floats.set(alpha, (start + plane) / 4);
  exports.tellPixels(start, alpha ? start + plane : 0, luminance.length, told);
  return wholeIn(exports, bytes, told, told + mask, width, height);
}

function wholeIn(exports: Exports, bytes: Uint8Array, mask: number, out: number, width: number, height: number): Uint8Array {
  bytes.fill(0, out, out + width * height);
  exports.wholeAround(mask, width, height, out);
  return bytes.slice(out, out + width * height);
}
