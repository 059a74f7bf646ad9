import type { Luminance } from './luminance.ts';

const TILE = 16;

/**
 * How rough a frame is from pixel to pixel: noise, and what texture is as fine. Between frames that stand beside each other the
 * picture is nearly the same, so that a difference is one of noise. The mask takes away what changes evenly, and its mean absolute
 * answer is that of noise of this deviation (J. Immerkær, "Fast Noise Variance Estimation", Computer Vision and Image
 * Understanding 64, 1996); of all tiles the middle one is taken, which edges do not reach.
 *
 * @returns standard deviation in the picture's own values; 0 where there is nothing to measure
 */
export function grainOf({ width, height, values }: Luminance): number {
  const found: number[] = [];
  for (let top = 1; top < height - 1; top += TILE) {
    for (let left = 1; left < width - 1; left += TILE) {
      const [bottom, right] = [Math.min(height - 1, top + TILE), Math.min(width - 1, left + TILE)];
      let sum = 0;
      for (let y = top; y < bottom; y++) {
        for (let x = left, at = y * width + x; x < right; x++, at++) {
          const corners = values[at - width - 1]! + values[at - width + 1]! + values[at + width - 1]! + values[at + width + 1]!;
          const sides = values[at - 1]! + values[at + 1]! + values[at - width]! + values[at + width]!;
          sum += Math.abs(corners - 2 * sides + 4 * values[at]!);
        }
      }
      const grain = (Math.sqrt(Math.PI / 2) / 6) * (sum / ((bottom - top) * (right - left)));
      // Black and holes say nothing.
      if (grain > 0 && Number.isFinite(grain)) found.push(grain);
    }
  }
  found.sort((a, b) => a - b);
  return found[found.length >> 1] ?? 0;
}

/** Mean of a frame's luminance where it is a number; 0 of an empty one. */
export function meanOf({ values }: Luminance): number {
  let [sum, count] = [0, 0];
  for (const value of values) {
    if (!Number.isFinite(value)) continue;
    sum += value;
    count++;
  }
  return count === 0 ? 0 : sum / count;
}
