import { cutMeans, fitPicture, type CutLimits, type Sight } from '../../kernels/index.ts';
import { alongSome, roomForSome } from '../some-pixels.ts';
import { besideNeighbours, mayBeHeld, type BesideFigures } from './beside.ts';
import type { NoiseBuffers } from './buffers.ts';
import type { Neighbour } from './columns.ts';
import { findFireflies } from './fireflies.ts';
import { persistenceOf } from './persistence.ts';
import { comparedWith, ENOUGH, fitBeside, prepared, rougherFit, toFit, type Prepared } from './prepared-frame.ts';
import { waverOf, type SharedPixels } from './shared-samples.ts';
import { standingFigures, type StandingFigures } from './standing.ts';
import { noisinessOf, type StructureFigures } from './structure.ts';
import { leastWithNoise, quantile, quantileOfMany, type TileGrid } from './tiles.ts';
import { unfollowedBy, type Unfollowed } from './unfollowed.ts';
import { fromFeatures, fromNeighbours } from './wide-filter.ts';

/** Means of squares that were cut low, and cut high. */
export type Cut = readonly [low: Float64Array, high: Float64Array];

/** What one frame by itself and its neighbours give; NaN where a tile has too few pixels, or nothing to tell it by. Variances of luminance. */
export interface FrameFigures extends BesideFigures, StructureFigures {
  readonly grid: TileGrid;
  /** Pixels that were measured. */
  readonly pixels: Float64Array;
  /** Mean luminance. */
  readonly mean: Float64Array;
  /** Mean luminance of all pixels that are numbers. */
  readonly meanLuminance: number | null;
  /** Places of pixels far brighter than all around them explains. */
  readonly fireflies: Int32Array;
  /** By the features alone. */
  readonly byFeatures: Float64Array;
  /** The same, with spikes cut as the frame's residuals say (see `cut`), and, where seeds may be held, as its own do. */
  readonly byFeaturesCut: Cut;
  readonly byFeaturesOwnCut: Cut;
  readonly byNeighboursCut: Cut;
  /** How well what the features leave is found again in a neighbour (see `persistenceOf`), of tiles that were cut; NaN of others. */
  readonly persistence: Float64Array;
  /** By the neighbours alone, without the features; NaN where there is little noise for the structure. */
  readonly bySights: Float64Array;
  /** How rough the noise is: near 1 where pixels are independent, larger where a wide filter joins them; NaN where it was not asked, null where texture cannot be told from it. */
  readonly roughness: number | null;
  /** How far features are off where things share a pixel (see `waverOf`), and which pixels they do. */
  readonly waver: number;
  readonly shared: SharedPixels;
  /** Beside a frame that no vectors lead to; null where there are vectors, or no such frame. */
  readonly standing: StandingFigures | null;
  /** What the features explain and the frame before, whose own figures are known, does not show; null without neighbours. */
  readonly unfollowed: Unfollowed | null;
}

/** Spikes are cut at so many times the 95 % quantile of residuals relative to the brightness around: low where structure leaks, high where it does not. */
const LOW_CUT = 1.5;
const HIGH_CUT = 4;
/** Never lower than this: so far noise alone reaches everywhere. */
const LOWEST_CUT = 0.5;
/**
 * At the rims of things what stands out is structure that neither features nor neighbours know, the more so the less noise
 * there is for the structure. With so much of it (as variances) they are cut at the quantile itself, and at more by its root;
 * with few samples nothing is. Found on studies whose noise is known.
 */
const CUT_AT_QUANTILE = 0.26;
const CUT_QUANTILE = 0.95;
/** A tile of which so much is left was hardly cut. */
const HARDLY_CUT = 0.9;

/**
 * Measures one frame.
 *
 * @param beside the frame before or after it, where no vectors lead to any
 * @param roughnessAsked whether it is asked how rough the noise is: some frames of a shot tell it for all
 */
export function measureFrame(frame: NoiseBuffers, neighbours: readonly Neighbour[], beside: NoiseBuffers | null = null, roughnessAsked = true): FrameFigures {
  const sights = neighbours.map(({ frame: other, places }) => ({ luminance: other.luminance, depth: other.depth, normal: other.normal, places }));
  const whole = neighbours.length === 0 ? null : fitBeside(frame, sights);
  const own = prepared(frame);
  const { grid, mask, pixels, means, luminance, target } = own;
  const cutAlone = () => {
    const alone = { byNeighbours: own.variances, total: own.total, known: [] };
    return cutSquares(own, own, usualShare(own.shares, own.variances, grid), noisinessOf(alone));
  };
  const figures = {
    grid,
    pixels,
    mean: means,
    meanLuminance: own.meanLuminance,
    fireflies: Int32Array.from(findFireflies(luminance, target, mask, grid)),
    byFeatures: own.variances,
    roughness: roughnessOf(frame, own, sights, whole?.variances ?? null, roughnessAsked),
    waver: waverOf(frame),
    shared: own.shared,
    standing: neighbours.length === 0 && beside ? standingFigures(own, prepared(beside)) : null,
  };
  if (!whole) {
    const none = own.variances.map(() => NaN);
    const cut = cutAlone();
    return {
      ...figures,
      byFeaturesCut: cut,
      byFeaturesOwnCut: cut,
      byNeighbours: none,
      byNeighboursCut: [none, none],
      persistence: none,
      bySights: none,
      total: own.total,
      held: [],
      known: [],
      still: [],
      sharedRoughness: [],
      unfollowed: null,
    };
  }
  const { variances: byNeighbours, planes, known, bySights } = whole;
  const told = { byNeighbours, total: own.total, known };
  const [usual, noisiness] = [usualShare(planes.shares, byNeighbours, grid), noisinessOf(told)];
  const byFeaturesCut = cutSquares(own, own, usual, noisiness);
  const byNeighboursCut = cutSquares(planes, own, usual, noisiness);
  const isCut = (tile: number) => byFeaturesCut[1][tile]! < HARDLY_CUT * own.variances[tile]! || byNeighboursCut[1][tile]! < HARDLY_CUT * byNeighbours[tile]!;
  const compared = comparedWith(neighbours);
  const before = compared[0]!;
  const besides = besideNeighbours(
    frame,
    own,
    compared.map((one) => one.frame),
    (one: Prepared, every) => rougherFit(one.frame, one, every, ['residuals']).planes.residuals,
  );
  return {
    ...figures,
    ...told,
    byFeaturesCut,
    byFeaturesOwnCut: mayBeHeld(besides) ? cutAlone() : byFeaturesCut,
    bySights,
    byNeighboursCut,
    persistence: persistenceOf(own, before.frame, before.places, isCut),
    ...besides,
    unfollowed: unfollowedBy(own, before.frame, before.places, byNeighbours),
  };
}

/** What residuals of the frame are, relative to the brightness around, where there is noise: nearly the largest. */
function usualShare(shares: Float32Array, variances: Float64Array, { width, height, across }: TileGrid): number {
  const least = leastWithNoise(variances);
  const some = new Float32Array(roomForSome(width, height, ENOUGH));
  let count = 0;
  alongSome(width, height, ENOUGH, (y, line, first, end) => {
    for (let x = first; x < end; x++) if (variances[(y >> 4) * across + (x >> 4)]! >= least) some[count++] = shares[line + x]!;
  });
  return quantileOfMany(some.subarray(0, count), CUT_QUANTILE);
}

/**
 * Means of squares, each cut where its residual is far beyond what residuals of the frame are, relative to the
 * brightness around. With few samples that is so large that nothing is cut.
 *
 * @param usual what they are
 * @param noisiness how much noise there is for the structure; NaN where that is not known
 */
function cutSquares(planes: Readonly<Record<'squares' | 'shares', Float32Array>>, { pixels, grid, rims }: Prepared, usual: number, noisiness: number): Cut {
  const atRims = Number.isNaN(noisiness) ? HIGH_CUT : Math.sqrt(noisiness / CUT_AT_QUANTILE);
  const low = Math.min(LOW_CUT, Math.max(LOWEST_CUT, LOW_CUT * atRims));
  const limits = [low, HIGH_CUT].map((inside): CutLimits => ({ inside: inside * usual, atRims: Math.min(inside, atRims) * usual }));
  const [lowest, highest] = cutMeans({ ...planes, rims }, pixels, grid, limits);
  return [lowest!, highest!];
}

/** A filter joins pixels all over the picture: every so many rows of tiles show it. */
const ROUGHNESS_EVERY = 4;

/** Tiles of which the features leave more than so many times what the neighbours do hold structure, which is smoother than noise. */
const NO_STRUCTURE = 1.5;
/** Where fewer of the tiles have none, features do not tell how rough noise is; */
const ENOUGH_WITHOUT = 0.25;
/** else a low quantile of them does. */
const LOW = 0.2;

/**
 * How rough the noise is: the variance of rougher residuals over that of the high-passed ones, tile by tile, and of these a
 * low quantile. Of what the features leave, where texture is known; neighbours explain texture as well, but have noise
 * themselves: they tell where it is not, and have to agree where it is.
 */
function roughnessOf(frame: NoiseBuffers, own: Prepared, sights: readonly Sight[], byNeighbours: Float64Array | null, isAsked: boolean): number | null {
  if (byNeighbours === null && frame.albedo === null) return null;
  if (!isAsked) return NaN;
  const every = Math.min(ROUGHNESS_EVERY, Math.ceil(own.grid.down / 8));
  const told = (rough: Float64Array, usual: Float64Array) => rough.map((variance, tile) => variance / usual[tile]!);
  const besideNeighbours = () => {
    const fit = fitPicture({ ...toFit(frame, own), sights, byFeatures: own.variances, filter: 'laplacian', every }, []);
    return told(fit.variances, byNeighbours!);
  };
  if (frame.albedo === null) {
    const ratios = besideNeighbours().filter(Number.isFinite);
    return fromNeighbours(quantile(ratios, LOW), ratios.length);
  }
  const isWithout = (_: number, tile: number) => byNeighbours === null || own.variances[tile]! <= NO_STRUCTURE * byNeighbours[tile]!;
  const ratios = told(rougherFit(frame, own, every, []).variances, own.variances);
  const without = ratios.filter(isWithout).filter(Number.isFinite);
  if (without.length < ENOUGH_WITHOUT * ratios.filter(Number.isFinite).length) return null;
  const byFeatures = fromFeatures(quantile(without, LOW), without.length);
  return byNeighbours === null || byFeatures <= 1 ? byFeatures : Math.min(byFeatures, quantile(besideNeighbours().filter(isWithout), 0.5));
}
