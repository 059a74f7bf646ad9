import { aligned, room, tenancy, type Exports } from './memory.ts';

/** The high-pass [1 -2 1] x [1 -2 1] / 6; the outermost ring of pixels is zero. */
export function highPassed(plane: Float32Array, width: number, height: number): Float32Array {
  return filtered('highPass', plane, width, height, 0);
}

/** [1 -4 6 -4 1] both ways / 36, what the high-pass does to the correlation of noise; beyond the picture stands zero. */
export function spreadByHighPass(plane: Float32Array, width: number, height: number): Float32Array {
  return filtered('spreadNoise', plane, width, height, 8);
}

function filtered(kernel: 'highPass' | 'spreadNoise', plane: Float32Array, width: number, height: number, more: number): Float32Array {
  const size = aligned(plane.byteLength);
  const { exports, start, bytes } = room(2 * size + aligned((width + more + 4) * 4));
  const out = start + size;
  bytes.set(new Uint8Array(plane.buffer, plane.byteOffset, plane.byteLength), start);
  if (kernel === 'highPass') bytes.fill(0, out, out + plane.byteLength);
  exports[kernel](start, width, height, out + size, out);
  return new Float32Array(bytes.buffer, out, plane.length).slice();
}

/** Columns that a vector holds. */
const LANES = 4;

/**
 * The sums of one tile's regression. What goes in is written where the kernels read it; all of it is good until the
 * next kernel is called.
 */
export class TileProducts {
  /** Columns with those that fill the last vector, which stay zero. */
  readonly stride: number;
  /** Pixels one after the other, `stride` columns each: the columns, the same weighted, and as the high-pass spreads them. */
  readonly columns: Float32Array;
  readonly weighted: Float32Array;
  readonly spread: Float32Array;
  private readonly exports: Exports;
  private readonly pixels: number;
  private readonly places: { columns: number; weighted: number; spread: number; matrix: number; out: number };
  private readonly tenancy: number;

  constructor(pixels: number, columns: number) {
    const blocks = Math.max(1, Math.ceil(columns / LANES));
    this.pixels = pixels;
    this.stride = blocks * LANES;
    const part = aligned(pixels * this.stride * 4);
    const square = aligned(this.stride * this.stride * 4);
    const { exports, start, bytes } = room(3 * part + 2 * square + aligned(pixels * 4));
    this.exports = exports;
    this.tenancy = tenancy();
    this.places = { columns: start, weighted: start + part, spread: start + 2 * part, matrix: start + 3 * part, out: start + 3 * part + square };
    bytes.fill(0, start, start + 3 * part);
    const view = (at: number) => new Float32Array(bytes.buffer, at, pixels * this.stride);
    [this.columns, this.weighted, this.spread] = [view(this.places.columns), view(this.places.weighted), view(this.places.spread)];
  }

  /** Sums over pixels of the products of every weighted column with every column, or with every spread one. */
  products(others: 'columns' | 'spread'): Float32Array {
    this.check();
    const { weighted, out } = this.places;
    this.exports.crossProducts(weighted, this.places[others], this.pixels, this.stride / LANES, out);
    return new Float32Array(this.columns.buffer, out, this.stride * this.stride).slice();
  }

  /** What each pixel weighs in its own fit. @param inverse of the products, `stride` wide */
  leverages(inverse: Float32Array): Float32Array {
    this.check();
    const { columns, spread, matrix, out } = this.places;
    new Float32Array(this.columns.buffer, matrix, inverse.length).set(inverse);
    this.exports.leverages(columns, spread, matrix, this.pixels, this.stride / LANES, out);
    return new Float32Array(this.columns.buffer, out, this.pixels).slice();
  }

  /** The columns of each pixel, weighed and summed. @param weights one a column, `stride` of them */
  weighedSums(weights: Float32Array): Float32Array {
    this.check();
    const { columns, matrix, out } = this.places;
    new Float32Array(this.columns.buffer, matrix, weights.length).set(weights);
    this.exports.weighedSums(columns, matrix, this.pixels, this.stride / LANES, out);
    return new Float32Array(this.columns.buffer, out, this.pixels).slice();
  }

  private check(): void {
    if (tenancy() !== this.tenancy) throw new Error('Another kernel has used the memory of a tile.');
  }
}
