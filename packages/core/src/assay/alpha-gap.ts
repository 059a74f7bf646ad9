import type { NoiseBuffers } from './noise/index.ts';
import { alongSome } from './some-pixels.ts';

/** Of larger pictures so many pixels are looked at. */
const MOST_PIXELS = 60_000;
/** Alphas are means over a pixel, and kept as halves or bytes. */
const TOLERANCE = 0.02;

/**
 * Share of a frame's pixels in which a pass's own alpha is another than that of the beauty.
 *
 * @param alpha the pass's own, of the beauty's size
 * @returns null where the beauty has none, and where the pass's is one value all over: it has none of its own
 */
export function alphaGap(alpha: Float32Array, { alpha: beauty, width, height }: Pick<NoiseBuffers, 'alpha' | 'width' | 'height'>): number | null {
  if (!beauty) return null;
  let [all, off, isFlat] = [0, 0, true];
  alongSome(width, height, MOST_PIXELS, (_, line, first, end) => {
    for (let i = line + first; i < line + end; i++) {
      all++;
      if (alpha[i] !== alpha[0]) isFlat = false;
      if (!(Math.abs(alpha[i]! - beauty[i]!) <= TOLERANCE)) off++;
    }
  });
  return isFlat ? null : off / all;
}
