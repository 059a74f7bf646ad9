import { MintError } from '../errors.ts';
import type { Luminance } from './luminance.ts';

/** Side of the tiles over which noise is told, in pixels. */
export const TILE = 16;

/** Raised when two pictures cannot be held against each other. */
export class PairError extends MintError {}

/**
 * Root mean square of the difference of two pictures, over 16 x 16 tiles of which each counts the
 * same. What both show cancels; of two renders with seeds of their own the square is the sum of
 * both renders' error variances. Pixels that either has no number for are left out.
 *
 * @throws PairError when the sizes differ
 */
export function pairDifference(a: Luminance, b: Luminance): number {
  const { width, height } = a;
  if (b.width !== width || b.height !== height) {
    throw new PairError('pair', `One picture is ${width} x ${height}, the other ${b.width} x ${b.height}.`, { remedy: 'Render the test frames at one size.' });
  }
  let [sum, tiles] = [0, 0];
  for (let top = 0; top < height; top += TILE) {
    for (let left = 0; left < width; left += TILE) {
      let [squares, pixels] = [0, 0];
      for (let y = top; y < Math.min(height, top + TILE); y++) {
        for (let x = left; x < Math.min(width, left + TILE); x++) {
          const difference = a.values[y * width + x] - b.values[y * width + x];
          if (!Number.isFinite(difference)) continue;
          squares += difference * difference;
          pixels++;
        }
      }
      if (pixels === 0) continue;
      sum += squares / pixels;
      tiles++;
    }
  }
  return tiles === 0 ? 0 : Math.sqrt(sum / tiles);
}
