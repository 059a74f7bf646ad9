import { FARTHEST } from '../assay/index.ts';
import type { Trail } from './trails.ts';

/** Depth may differ by this share, and normals by this squared distance, before a point counts as another one. */
const SAME_DEPTH = 0.05;
const SAME_NORMAL = 0.5;

/** What tells that a point is the same in two frames. */
export interface Surfaces {
  readonly width: number;
  readonly height: number;
  readonly depth: Float32Array | null;
  readonly normal: readonly Float32Array[] | null;
}

/** The pixel of the other frame that is nearest to each point; -1 where that is outside, or shows another surface. */
export function seenAt(frame: Surfaces, other: Surfaces, { x, y }: Trail): Int32Array {
  const find = finder(frame, other);
  const seen = new Int32Array(frame.width * frame.height);
  for (let i = 0; i < seen.length; i++) seen[i] = find(i, x[i]!, y[i]!);
  return seen;
}

/** Finds the pixel of another frame that is nearest to where a pixel's point is there; -1 as above. */
export function finder({ width, height, depth, normal }: Surfaces, other: Surfaces): (pixel: number, x: number, y: number) => number {
  const depths = depth && other.depth;
  const [normals, others] = normal && other.normal ? [normal, other.normal] : [null, null];
  return (pixel, x, y) => {
    if (!(x >= 0 && y >= 0 && x <= width - 1 && y <= height - 1)) return -1;
    const at = Math.round(y) * width + Math.round(x);
    if (depths && !isSameDepth(depth[pixel]!, depths[at]!)) return -1;
    return normals && !isSameNormal(normals, pixel, others, at) ? -1 : at;
  };
}

function isSameDepth(here: number, there: number): boolean {
  return here >= FARTHEST ? there >= FARTHEST : Math.abs(there - here) <= SAME_DEPTH * Math.abs(here);
}

function isSameNormal(normal: readonly Float32Array[], i: number, other: readonly Float32Array[], at: number): boolean {
  const x = normal[0]![i]! - other[0]![at]!;
  const y = normal[1]![i]! - other[1]![at]!;
  const z = normal[2]![i]! - other[2]![at]!;
  return x * x + y * y + z * z < SAME_NORMAL;
}
