import { FARTHEST } from '../assay/index.ts';
import { boxMean } from '../kernels/index.ts';
import { greyOf } from './grey.ts';
import type { PictureToDenoise } from './picture.ts';

/** What differs from the pixels around by so much is an edge: of albedo as it is, of normals in length, of depth as a share. */
const EDGE = 0.02;
const DEPTH_EDGE = 0.05;

/** Sums over the edges of frames: what of the original's detail is found again, and how much there was. They are added up over frames. */
export interface DetailSums {
  readonly found: number;
  readonly there: number;
  /** What noise alone would have brought into `there`, and has been taken out of it. */
  readonly noise: number;
}

/** What was done to a frame, in luminance. */
export interface Cleaned {
  readonly luminance: Float32Array;
  /** What the same weights made of known noise, and that noise. */
  readonly left: Float32Array;
  readonly known: Float32Array;
}

/** A render of the same frame with more samples, and its noise as a share of the original's. */
export interface Reference {
  readonly luminance: Float32Array;
  readonly noise: number;
}

/**
 * Holds a frame without its noise against the original, or a better render of it, where surfaces and texture have edges: how the finest detail of the one
 * follows that of the other. The noise that both share is known from what the filter made of noise that is known, and taken out.
 */
export function detailKept(picture: PictureToDenoise, { luminance, left, known }: Cleaned, reference: Reference | null = null): DetailSums {
  const { width, height } = picture;
  const edges = edgesOf(picture);
  const fine = (plane: Float32Array) => {
    const around = boxMean(plane, width, height, 1);
    return plane.map((value, i) => value - around[i]!);
  };
  const [after, before, ofLeft, ofKnown] = [fine(luminance), fine(reference?.luminance ?? picture.luminance), fine(left), fine(known)];
  const share = (reference?.noise ?? 1) ** 2;
  let [found, there, noise] = [0, 0, 0];
  for (let i = 0; i < edges.length; i++) {
    if (edges[i] === 0) continue;
    // Another render has other noise, which nothing of what was done has to do with.
    found += after[i]! * before[i]! - (reference ? 0 : ofLeft[i]! * ofKnown[i]!);
    there += before[i]! ** 2 - share * ofKnown[i]! ** 2;
    noise += share * ofKnown[i]! ** 2;
  }
  return { found, there, noise };
}

/** The share of the detail that is kept; null where there is too little beside the noise to tell. */
export function shareOfDetail(sums: readonly DetailSums[]): number | null {
  const total = (part: keyof DetailSums) => sums.reduce((sum, one) => sum + one[part], 0);
  const there = total('there');
  return there > 0 && there > total('noise') / 4 ? total('found') / there : null;
}

/** 1 where features say that something ends within the next pixel; everywhere without features. */
function edgesOf({ width, height, alpha, holes, albedo, normal, depth }: PictureToDenoise): Uint8Array {
  const edges = new Uint8Array(width * height);
  const grey = albedo && greyOf(albedo);
  const isKnown = grey !== null || normal !== null || depth !== null;
  const differs = (i: number, j: number) =>
    (grey !== null && Math.abs(grey[i]! - grey[j]!) > EDGE) ||
    (normal !== null && Math.hypot(normal[0]![i]! - normal[0]![j]!, normal[1]![i]! - normal[1]![j]!, normal[2]![i]! - normal[2]![j]!) > 5 * EDGE) ||
    (depth !== null && Math.abs(Math.min(depth[i]!, FARTHEST) - Math.min(depth[j]!, FARTHEST)) > DEPTH_EDGE * Math.min(depth[i]!, depth[j]!, FARTHEST));
  for (let y = 1; y < height - 1; y++) {
    for (let i = y * width + 1; i < (y + 1) * width - 1; i++) {
      if ((alpha && !(alpha[i]! > 0)) || (holes && holes[i] !== 0)) continue;
      edges[i] = !isKnown || differs(i, i + 1) || differs(i, i - 1) || differs(i, i + width) || differs(i, i - width) ? 1 : 0;
    }
  }
  return edges;
}
