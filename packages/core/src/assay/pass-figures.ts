import type { PassRole } from '../brief/index.ts';
import { countOddPixels, edgesAlong, isAnyBelow, sumOfChanges, type Stretches } from '../kernels/index.ts';
import type { DepthSpan } from './depth-figures.ts';
import type { DepthOrder } from './depth-order.ts';
import type { PassWindows } from './window-figures.ts';
import { FARTHEST } from './noise/index.ts';

/** How well what changes in a pass from the frame before fits what changes in another a frame earlier, at its own and a frame later; -1 to 1. */
export type ChangeFits = readonly [earlier: number, own: number, later: number];

/** What was measured of one frame of a pass beside the beauty. */
export interface PassFigures {
  readonly pass: string;
  readonly role: PassRole;
  readonly frame: number;
  /** Relative to the shot's folder. */
  readonly file: string;
  /** Share of the covered pixels that hold what such a pass cannot hold; null where the role says nothing. */
  readonly odd: number | null;
  /** How well the change of its edges fits that of the beauty's; null where one lacks or nothing changes. */
  readonly changes: ChangeFits | null;
  /** And that of other passes with the picture's edges, which have no noise: by their names, each two passes in one of both. */
  readonly besides: Readonly<Record<string, ChangeFits>>;
  /** Pixels whose edges change from the frame before: what `changes` rests on. */
  readonly changed: number;
  /** What the vectors leave of the difference to the frame before, as a share; null of other passes, and where nothing moves. */
  readonly unexplained: number | null;
  /** And what they leave when they are turned round. */
  readonly turned: number | null;
  /** Share of what they say moves that stands still; null of other passes, and where nothing tells. */
  readonly standing: number | null;
  /** Between which distances a depth lies, and share of the pixels with something in them where it says that nothing is met; null of other passes, and where nothing tells. */
  readonly span: DepthSpan | null;
  readonly nothingMet: number | null;
  /** Share of the pixels in which its own alpha is another than the beauty's; null where it has none. */
  readonly alphaGap: number | null;
  /** Where its picture lies, and where that of the beauty does. */
  readonly windows: { readonly own: PassWindows; readonly beauty: PassWindows };
  /** What the depth says of what hid things a frame earlier; null of other passes, and without vectors. */
  readonly order: DepthOrder | null;
  /** Of a matte: share of the pixels in which the frame's mattes do not sum to the alpha; null of other passes. */
  readonly gap: number | null;
  /** Mean of its values; null where they cannot be read. */
  readonly mean: number | null;
}

/** Normals are means over a pixel, and kept as halves. */
const UNIT_TOLERANCE = 0.15;
const SHARE_TOLERANCE = 0.01;
/** Of whole numbers kept as floats. */
const WHOLE_TOLERANCE = 1e-3;

/**
 * Share of a pass's covered pixels that hold what it cannot hold: a depth that is no distance, a normal that is not of
 * length 1, an occlusion or matte outside 0..1, an id that is no whole number. Normals may be kept as 0..1.
 *
 * @param alpha of the beauty; null where all of it is covered
 * @returns null where the role says nothing, or nothing is covered
 */
export function oddShare(role: PassRole, values: readonly Float32Array[], alpha: Float32Array | null): number | null {
  const count = (kind: Parameters<typeof countOddPixels>[0], planes: readonly Float32Array[], tolerance: number) => {
    // At the rim of things a pixel is a mean of what is there and what is not.
    const { all, odd } = countOddPixels(kind, planes, tolerance, alpha, 0.999);
    return all === 0 ? null : odd / all;
  };
  if (values.length === 0) return null;
  switch (role) {
    case 'depth':
      return count('depth', values.slice(0, 1), 0);
    case 'normal': {
      if (values.length < 3) return null;
      const normals = values.slice(0, 3);
      return count(isAnyBelow(normals, -0.01) ? 'signedNormal' : 'normal', normals, UNIT_TOLERANCE);
    }
    case 'occlusion':
    case 'matte':
      return count('share', values, SHARE_TOLERANCE);
    case 'id':
      return count('whole', values.slice(0, 1), WHOLE_TOLERANCE);
    default:
      return null;
  }
}

/** Of larger pictures some stretches of lines are enough to tell whether two go together. */
const MOST_PIXELS = 250_000;
const STRETCH = 16;

/** The lines whose edges are looked at, as stretches [first, end). */
function stretchesOf(width: number, height: number): Stretches {
  const every = Math.max(1, Math.ceil((width * height) / MOST_PIXELS));
  const stretches: (readonly [number, number])[] = [];
  for (let first = 2; first < height - 2; first += STRETCH * every) stretches.push([first, Math.min(height - 2, first + STRETCH)]);
  return stretches;
}

/**
 * Strength of the edges of a picture, along stretches of its lines: of light by its logarithm, so that dark ones count;
 * of distances likewise.
 */
export function edgesOf(planes: readonly Float32Array[], width: number, height: number): Float32Array {
  return edgesAlong(planes, width, stretchesOf(width, height), FARTHEST);
}

/** Pixels in which two pictures of edges differ. */
export function changedPixels([before, after]: readonly [Float32Array, Float32Array]): number {
  let count = 0;
  if (before.length === after.length) for (let i = 0; i < before.length; i++) if (after[i] !== before[i]) count++;
  return count;
}

/**
 * Correlations of what changes between two pictures of edges of a pass with what changes between those of the beauty, or of
 * another pass, -1 to 1: a frame earlier, at its own, and a frame later. What stands still fits every frame, and is left out so.
 *
 * @param beauties four frames in a row, the pass's own the third
 * @returns null where nothing changes, or sizes differ
 */
export function changeFits(
  [before, after]: readonly [Float32Array, Float32Array],
  beauties: readonly [Float32Array, Float32Array, Float32Array, Float32Array],
): ChangeFits | null {
  if ([after, ...beauties].some(({ length }) => length !== before.length)) return null;
  const { own, beauty, both } = sumOfChanges([before, after], beauties);
  if (!(own > 0 && beauty.every((squares) => squares > 0))) return null;
  const fit = (at: 0 | 1 | 2) => both[at] / Math.sqrt(own * beauty[at]);
  return [fit(0), fit(1), fit(2)];
}
