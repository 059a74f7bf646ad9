import { FARTHEST, type NoiseBuffers } from './noise/index.ts';
import { alongSome, oneOf } from './some-pixels.ts';

/** Pixels that were hidden a frame earlier, by what the depth pass says of what hid them. */
export interface DepthOrder {
  /** Hidden by what is nearer, as it must be. */
  readonly byNearer: number;
  /** Hidden by what is said to be farther away. */
  readonly byFarther: number;
}

/** Of larger pictures so many pixels are looked at. */
const MOST_PIXELS = 150_000;

/** Distances that differ by less are one surface. */
const ONE_SURFACE = 0.05;

/**
 * Follows the vectors to the frame before: where something else stands there, it hid the point, so it is nearer. Along edges
 * a place is rounded, and may hit either side; there the surface is found beside it.
 *
 * @returns null without vectors or distances
 */
export function depthOrder({ motion, depth, width, height }: NoiseBuffers, { depth: before }: NoiseBuffers): DepthOrder | null {
  if (!motion || !depth || !before) return null;
  const [across, down] = motion;
  let [byNearer, byFarther] = [0, 0];
  alongSome(width, height, MOST_PIXELS, (y, line, first, end) => {
    for (let x = first; x < end; x++) {
      const own = depth[line + x]!;
      const [column, row] = [Math.round(x + across[line + x]!), Math.round(y + down[line + x]!)];
      if (!(own > 0) || own > FARTHEST || !(column >= 1 && row >= 1 && column < width - 1 && row < height - 1)) continue;
      const there = before[row * width + column]!;
      if (Math.abs(there - own) <= ONE_SURFACE * own || isAround(before, row * width + column, width, own)) continue;
      if (there < own) byNearer++;
      else byFarther++;
    }
  });
  // Of larger pictures some pixels stand for all.
  const every = oneOf(width, height, MOST_PIXELS);
  return { byNearer: byNearer * every, byFarther: byFarther * every };
}

function isAround(depth: Float32Array, place: number, width: number, own: number): boolean {
  for (let row = place - width; row <= place + width; row += width)
    for (let i = row - 1; i <= row + 1; i++) if (Math.abs(depth[i]! - own) <= ONE_SURFACE * own) return true;
  return false;
}
