import { FARTHEST, type NoiseBuffers } from './noise/index.ts';
import { quantileOfMany } from './noise/tiles.ts';
import { alongSome, roomForSome } from './some-pixels.ts';

/** Distances between which nearly all lies that the picture covers. */
export interface DepthSpan {
  readonly near: number;
  readonly far: number;
  /** One distance all over, although the normals turn. */
  readonly isFlat: boolean;
}

/** Of larger pictures so many pixels are looked at. */
const MOST_PIXELS = 40_000;
/** Beside these shares of the pixels stand single ones that say nothing of the rest. */
const NEAR = 0.02;
const FAR = 0.98;
/** At the rims of things a pixel is a mean of what is there and what is not. */
const COVERED = 0.999;

/** Surfaces that turn by so much (the squared distance of their normals) in so many of the pixels are no wall across the view. */
const TURNED = 0.1;
const MANY_TURNED = 0.05;

/** Where a depth begins and ends; null without one, and where nothing is met. */
export function depthSpan({ depth, normal, alpha, width, height }: NoiseBuffers): DepthSpan | null {
  if (!depth) return null;
  const some = new Float32Array(roomForSome(width, height, MOST_PIXELS));
  let [count, turned, first] = [0, 0, -1];
  alongSome(width, height, MOST_PIXELS, (_, line, from, end) => {
    for (let i = line + from; i < line + end; i++) {
      if (!(depth[i]! > 0 && depth[i]! < FARTHEST) || (alpha && alpha[i]! < COVERED)) continue;
      some[count++] = depth[i]!;
      if (first < 0) first = i;
      if (normal && normal.reduce((sum, plane) => sum + (plane[i]! - plane[first]!) ** 2, 0) > TURNED) turned++;
    }
  });
  if (count === 0) return null;
  const met = some.subarray(0, count);
  const [near, far] = [quantileOfMany(met, NEAR), quantileOfMany(met, FAR)];
  return { near, far, isFlat: near === far && turned > MANY_TURNED * count };
}

/** Fewer pixels in which something is seen tell nothing. */
const FEWEST_SEEN = 64;
/** A normal is not much shorter than 1 where all of a pixel is of one surface. */
const SHORTEST_NORMAL = 0.95;

/**
 * Share of the pixels in which something is seen where the depth says that nothing is met: the mattes say so of their pixels,
 * without mattes the normals do, since where nothing is met there is none.
 *
 * @param mattes all components of all of them
 * @returns null without a depth, and where nothing tells what is seen
 */
export function nothingMet({ depth, normal, width, height }: NoiseBuffers, mattes: readonly Float32Array[]): number | null {
  const isSeen = mattes.length > 0 ? (i: number) => mattes.reduce((sum, matte) => sum + matte[i]!, 0) >= COVERED : normal && hasNormal(normal);
  if (!depth || !isSeen) return null;
  let [seen, lost] = [0, 0];
  alongSome(width, height, MOST_PIXELS, (_, line, first, end) => {
    for (let i = line + first; i < line + end; i++) {
      if (!isSeen(i)) continue;
      seen++;
      if (!(depth[i]! < FARTHEST)) lost++;
    }
  });
  return seen < FEWEST_SEEN ? null : lost / seen;
}

const hasNormal =
  ([x, y, z]: NonNullable<NoiseBuffers['normal']>) =>
  (i: number) =>
    x[i]! ** 2 + y[i]! ** 2 + z[i]! ** 2 >= SHORTEST_NORMAL ** 2;
