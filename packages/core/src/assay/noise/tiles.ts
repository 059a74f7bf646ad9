import { mean } from '../../statistics.ts';
import { TILE } from '../pair-noise.ts';

/** The 16 x 16 tiles of a picture, row by row; those at its right and lower edge are cut. */
export interface TileGrid {
  readonly width: number;
  readonly height: number;
  readonly across: number;
  readonly down: number;
}

export function gridOf({ width, height }: { readonly width: number; readonly height: number }): TileGrid {
  return { width, height, across: Math.ceil(width / TILE), down: Math.ceil(height / TILE) };
}

/**
 * Goes through a picture line by line, and in each through its tiles.
 *
 * @param visit gets a tile, its first pixel of the line, and the one behind its last
 * @param every rows of tiles that are visited: each so many
 */
export function alongTiles({ width, height, across }: TileGrid, visit: (tile: number, first: number, end: number) => void, every = 1): void {
  for (let y = 0; y < height; y++) {
    const line = y * width;
    if (Math.floor(y / TILE) % every !== 0) continue;
    for (let column = 0; column < across; column++) {
      visit(Math.floor(y / TILE) * across + column, line + column * TILE, line + Math.min(width, (column + 1) * TILE));
    }
  }
}

/** Tiles whose variance is so small a share of the mean one hold no noise: an open sky, of which there may be much. */
const NO_NOISE = 1e-3;

/** The variance from which on tiles hold noise; NaN where none is known. */
export const leastWithNoise = (variances: Float64Array): number => NO_NOISE * mean(Array.from(variances).filter(Number.isFinite));

/** The value below which a share of some values lies; NaN of none. Values that are no numbers do not count. */
export function quantile(values: ArrayLike<number>, share: number): number {
  const sorted = new Float64Array(values.length);
  let count = 0;
  for (let i = 0; i < values.length; i++) if (Number.isFinite(values[i])) sorted[count++] = values[i]!;
  return count === 0 ? NaN : sorted.subarray(0, count).sort()[Math.min(count - 1, Math.floor(share * count))]!;
}

/** The same of many values, found by counting instead of sorting; negative ones do not count either. */
export function quantileOfMany(values: Float32Array, share: number): number {
  // What is positive is in the order of its bits.
  const bits = new Uint32Array(values.buffer, values.byteOffset, values.length);
  const high = new Uint32Array(INFINITE >>> 16);
  let told = 0;
  for (let i = 0; i < bits.length; i++) {
    if (bits[i]! >= INFINITE) continue;
    high[bits[i]! >>> 16]!++;
    told++;
  }
  if (told === 0) return NaN;
  let left = Math.min(told - 1, Math.floor(share * told));
  let top = 0;
  while (left >= high[top]!) left -= high[top++]!;
  const low = new Uint32Array(1 << 16);
  for (let i = 0; i < bits.length; i++) if (bits[i]! >>> 16 === top) low[bits[i]! & 0xffff]!++;
  let bottom = 0;
  while (left >= low[bottom]!) left -= low[bottom++]!;
  return new Float32Array(Uint32Array.of((top << 16) | bottom).buffer)[0]!;
}

/** The bits of infinity; those of what is no number lie above. */
const INFINITE = 0x7f800000;
