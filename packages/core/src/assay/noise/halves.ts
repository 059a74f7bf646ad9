import type { Luminance } from '../luminance.ts';
import { alongTiles, gridOf } from './tiles.ts';

/**
 * The noise of a picture from two independent halves of its samples, tile by tile: half their difference, squared
 * (both halves have twice the variance of the whole, and their difference four times). No estimate is needed.
 *
 * @returns standard deviations of luminance; NaN where no pixel is a number in both. Null when the sizes differ.
 */
export function differenceOfHalves(a: Luminance, b: Luminance, alpha: Float32Array | null): Float64Array | null {
  const { width, height } = a;
  if (b.width !== width || b.height !== height) return null;
  const grid = gridOf(a);
  const [sums, pixels] = [new Float64Array(grid.across * grid.down), new Float64Array(grid.across * grid.down)];
  alongTiles(grid, (tile, first, end) => {
    for (let i = first; i < end; i++) {
      const half = (a.values[i]! - b.values[i]!) / 2;
      if (!Number.isFinite(half) || !(alpha === null || alpha[i]! > 0)) continue;
      sums[tile]! += half * half;
      pixels[tile]!++;
    }
  });
  return sums.map((sum, tile) => Math.sqrt(sum / pixels[tile]!));
}
