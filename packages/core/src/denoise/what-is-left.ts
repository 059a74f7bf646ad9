import { alongTiles, gridOf } from '../assay/index.ts';
import { finder, type Surfaces } from './seen-at.ts';
import type { Vectors } from './trails.ts';

/** Of larger pictures about so many pixels tell as much as all: those of every third line and column, or fifth, … */
const ENOUGH = 250_000;

/** Root mean square of what is left, over the tiles that were measured; null where none was. @param sigmas not numbers where there was nothing to measure */
export function noiseLeft(left: Float32Array, sigmas: Float64Array, size: { readonly width: number; readonly height: number }): number | null {
  const [sums, counts] = [new Float64Array(sigmas.length), new Float64Array(sigmas.length)];
  alongTiles(gridOf(size), (tile, first, end) => {
    let sum = 0;
    for (let i = first; i < end; i++) sum += left[i]! * left[i]!;
    sums[tile] = sums[tile]! + sum;
    counts[tile] = counts[tile]! + end - first;
  });
  const measured = sums.map((sum, tile) => sum / counts[tile]!).filter((_, tile) => Number.isFinite(sigmas[tile]));
  return measured.length === 0 ? null : Math.sqrt(measured.reduce((sum, mean) => sum + mean, 0) / measured.length);
}

/** What is left of a frame's noise, and what tells where its points were. */
export interface LeftIn extends Surfaces {
  readonly motion: Vectors | null;
  readonly left: Float32Array;
}

/** Root of half the mean square of what the noise that is left differs by from the frame before, at the same points; null where none is seen in both. */
export function differenceAlong(frame: LeftIn, before: LeftIn): number | null {
  const { width, height, motion, left } = frame;
  if (!motion || !before.motion || width !== before.width || height !== before.height) return null;
  const find = finder(frame, before);
  // An odd number, so that none falls in with the filter's windows, which stand at every fourth pixel.
  const every = 2 * Math.floor(Math.sqrt(left.length / ENOUGH) / 2) + 1;
  let [sum, count] = [0, 0];
  for (let y = 0; y < height; y += every) {
    for (let x = 0, i = y * width; x < width; x += every, i += every) {
      const at = find(i, x + motion[0][i]!, y + motion[1][i]!);
      if (at < 0) continue;
      sum += (left[i]! - before.left[at]!) ** 2 / 2;
      count++;
    }
  }
  return count === 0 ? null : Math.sqrt(sum / count);
}
