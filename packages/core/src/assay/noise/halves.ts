import type { Luminance } from '../luminance.ts';
import { gridOf, pixelsByTile } from './tiles.ts';

/**
 * The noise of a picture from two independent halves of its samples, tile by tile: half their difference, squared
 * (both halves have twice the variance of the whole, and their difference four times). No estimate is needed.
 *
 * @returns standard deviations of luminance; NaN where no pixel is a number in both. Null when the sizes differ.
 */
export function differenceOfHalves(a: Luminance, b: Luminance, alpha: Float32Array | null): Float64Array | null {
  const { width, height } = a;
  if (b.width !== width || b.height !== height) return null;
  const half = a.values.map((value, i) => (value - b.values[i]!) / 2);
  const mask = Uint8Array.from(half, (value, i) => (Number.isFinite(value) && (alpha === null || alpha[i]! > 0) ? 1 : 0));
  return Float64Array.from(pixelsByTile(gridOf(a), mask), (pixels) => {
    let sum = 0;
    for (const pixel of pixels) sum += half[pixel]! * half[pixel]!;
    return Math.sqrt(sum / pixels.length);
  });
}
