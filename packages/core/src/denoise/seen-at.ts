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
export function seenAt({ width, height, depth, normal }: Surfaces, other: Surfaces, { x, y }: Trail): Int32Array {
  const seen = new Int32Array(width * height);
  for (let i = 0; i < seen.length; i++) {
    const isInside = x[i]! >= 0 && y[i]! >= 0 && x[i]! <= width - 1 && y[i]! <= height - 1;
    const at = isInside ? Math.round(y[i]!) * width + Math.round(x[i]!) : -1;
    seen[i] =
      at >= 0 && (!depth || !other.depth || isSameDepth(depth[i]!, other.depth[at]!)) && (!normal || !other.normal || isSameNormal(normal, i, other.normal, at))
        ? at
        : -1;
  }
  return seen;
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
