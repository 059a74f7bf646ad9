import { FARTHEST } from '../assay/noise/index.ts';
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
      at >= 0 &&
      (!depth || !other.depth || isSameDepth(depth[i]!, other.depth[at]!)) &&
      (!normal || !other.normal || isSameNormal(normal, i, other.normal, at))
        ? at
        : -1;
  }
  return seen;
}

function isSameDepth(here: number, there: number): boolean {
  return here >= FARTHEST ? there >= FARTHEST : Math.abs(there - here) <= SAME_DEPTH * Math.abs(here);
}

function isSameNormal(normal: readonly Float32Array[], i: number, other: readonly Float32Array[], at: number): boolean {
  const [x, y, z] = [0, 1, 2].map((c) => normal[c]![i]! - other[c]![at]!) as [number, number, number];
  return x * x + y * y + z * z < SAME_NORMAL;
}

/** Brings planes of another frame onto a frame, between their pixels; zero where the other frame does not show the point. */
export function bring(planes: readonly Float32Array[], { x: xs, y: ys }: Trail, seen: Int32Array, width: number, height: number): Float32Array[] {
  const out = planes.map(() => new Float32Array(width * height));
  const [across, down] = [new Float64Array(4), new Float64Array(4)];
  for (let i = 0; i < seen.length; i++) {
    if (seen[i]! < 0) continue;
    const [left, top] = [Math.floor(xs[i]!), Math.floor(ys[i]!)];
    cubic(xs[i]! - left, across);
    cubic(ys[i]! - top, down);
    const isInside = left >= 1 && top >= 1 && left < width - 2 && top < height - 2;
    for (let c = 0; c < planes.length; c++) {
      const plane = planes[c]!;
      let sum = 0;
      for (let row = 0; row < 4; row++) {
        let part = 0;
        if (isInside) {
          const at = (top + row - 1) * width + left - 1;
          part = across[0]! * plane[at]! + across[1]! * plane[at + 1]! + across[2]! * plane[at + 2]! + across[3]! * plane[at + 3]!;
        } else {
          const line = Math.min(height - 1, Math.max(0, top + row - 1)) * width;
          for (let k = 0; k < 4; k++) part += across[k]! * plane[line + Math.min(width - 1, Math.max(0, left + k - 1))]!;
        }
        sum += down[row]! * part;
      }
      out[c]![i] = sum;
    }
  }
  return out;
}

/** Through the points, with the slopes of those beside (Catmull and Rom 1974). */
function cubic(t: number, out: Float64Array): void {
  out[0] = t * (-0.5 + t * (1 - 0.5 * t));
  out[1] = 1 + t * t * (-2.5 + 1.5 * t);
  out[2] = t * (0.5 + t * (2 - 1.5 * t));
  out[3] = t * t * (-0.5 + 0.5 * t);
}
