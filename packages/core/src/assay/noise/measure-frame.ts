import type { NoiseBuffers } from './buffers.ts';
import { featureColumns, filledIn, measuredPixels, neighbourColumns, numbersOf, spreadColumns, type Neighbour } from './columns.ts';
import { boxMean, highPass, laplacian, largestAround, masked } from './filters.ts';
import { fitTile, type Column } from './regress.ts';
import { findFireflies } from './fireflies.ts';
import { gridOf, pixelsByTile, quantile, type TileGrid } from './tiles.ts';

/** Means of squares that were cut low, and cut high. */
export type Cut = readonly [low: Float64Array, high: Float64Array];

/** What one frame by itself and its neighbours give; NaN where a tile has too few pixels, or nothing to tell it by. Variances of luminance. */
export interface FrameFigures {
  readonly grid: TileGrid;
  /** Pixels that were measured. */
  readonly pixels: Float64Array;
  /** Mean luminance. */
  readonly mean: Float64Array;
  /** Mean luminance of all pixels that are numbers. */
  readonly meanLuminance: number | null;
  /** Pixels far brighter than all around them explains. */
  readonly fireflies: number;
  /** By the features alone. */
  readonly byFeatures: Float64Array;
  /** The same, with spikes cut as the frame's residuals say (see `cut`), and as its own do. */
  readonly byFeaturesCut: Cut;
  readonly byFeaturesOwnCut: Cut;
  /** By features and neighbours; NaN everywhere without neighbours. */
  readonly byNeighbours: Float64Array;
  readonly byNeighboursCut: Cut;
  /** Correlation with each neighbour's residuals at the same pixel: high where seeds are held. */
  readonly held: readonly Float64Array[];
  /** Share of pixels whose place in each neighbour is known. */
  readonly known: readonly Float64Array[];
  /** How rough the noise is: near 1 where pixels are independent, larger where a wide filter joins them. */
  readonly roughness: number;
  /** For each neighbour: half the mean square of the high-passed difference at the same place over pixels that stand still, and their share. */
  readonly still: readonly { readonly difference: Float64Array; readonly share: Float64Array }[];
}

/** Spikes are cut at so many times the 95 % quantile of residuals relative to the brightness around: low where structure leaks, high where it does not. */
const CUTS = [1.5, 3] as const;
const CUT_QUANTILE = 0.95;
/** Of the frame's mean luminance, added to the brightness around, so that black has one. */
const DARKEST = 0.02;
/** Pixels whose vectors are shorter stand still. */
const STILL = 0.02;

/** Measures one frame. @param form which columns the neighbours give; the full form also weighs pixels down that do not fit */
export function measureFrame(frame: NoiseBuffers, neighbours: readonly Neighbour[], form: 'small' | 'full' = 'small'): FrameFigures {
  const { grid, mask, tiles, luminance, target, features, own } = prepared(frame);
  const ceiling = ceilingOf(luminance, tiles, grid);
  const ownCut = cutSquares(own.squares, ceiling, tiles, own.squares);
  const figures = {
    grid,
    pixels: Float64Array.from(tiles, (pixels) => pixels.length),
    mean: Float64Array.from(tiles, (pixels) => meanOf(luminance, pixels)),
    meanLuminance: meanOfNumbers(frame.luminance),
    fireflies: findFireflies(luminance, target, tiles, grid).length,
    byFeatures: own.variances,
    byFeaturesOwnCut: ownCut,
    roughness: roughnessOf(frame),
  };
  const none = own.variances.map(() => NaN);
  if (neighbours.length === 0) {
    return { ...figures, byFeaturesCut: ownCut, byNeighbours: none, byNeighboursCut: [none, none], held: [], known: [], still: [] };
  }
  const columns = [...features, ...neighbourColumns(frame, neighbours, form).map((column) => maskedColumn(column, mask))];
  const plain = fitTiles(columns, spreadColumns(columns, frame, mask, null), target, tiles, null);
  const fit = form === 'small' ? plain : refit(frame, columns, target, tiles, mask, own.variances, plain);
  return {
    ...figures,
    byFeaturesCut: cutSquares(own.squares, ceiling, tiles, fit.squares),
    byNeighbours: fit.variances,
    byNeighboursCut: cutSquares(fit.squares, ceiling, tiles, fit.squares),
    ...beside(frame, neighbours),
  };
}

/** What is worked out of a frame by itself: once, although it is a neighbour of others as well. */
interface Prepared {
  readonly grid: TileGrid;
  readonly mask: Uint8Array;
  /** The pixels of each tile that are measured. */
  readonly tiles: readonly Int32Array[];
  readonly luminance: Float32Array;
  /** High-passed luminance. */
  readonly target: Float32Array;
  readonly features: readonly Column[];
  readonly own: Fits;
}

const preparedFrames = new WeakMap<NoiseBuffers, Prepared>();

function prepared(frame: NoiseBuffers): Prepared {
  const known = preparedFrames.get(frame);
  if (known) return known;
  const { width, height } = frame;
  const grid = gridOf(frame);
  const mask = measuredPixels(frame);
  const tiles = pixelsByTile(grid, mask);
  const luminance = filledIn(frame.luminance, width, height);
  const target = masked(highPass(luminance, width, height), mask);
  const features = featureColumns(frame).map((column) => maskedColumn(column, mask));
  const made = { grid, mask, tiles, luminance, target, features, own: fitTiles(features, null, target, tiles, null) };
  preparedFrames.set(frame, made);
  return made;
}

interface Fits {
  readonly variances: Float64Array;
  /** Of residuals, corrected. */
  readonly squares: Float32Array;
  /** The same before the neighbours' own noise was divided out. */
  readonly raw: Float32Array;
  readonly residuals: Float32Array;
}

function fitTiles(
  columns: readonly Column[],
  spread: readonly Float32Array[] | null,
  target: Float32Array,
  tiles: readonly Int32Array[],
  weights: Float32Array | null,
): Fits {
  const [squares, residuals] = [new Float32Array(target.length), new Float32Array(target.length)];
  const fits = tiles.map((pixels) => fitTile(columns, spread, target, pixels, weights, squares, residuals));
  const raw = squares.slice();
  fits.forEach((fit, tile) => {
    for (const pixel of tiles[tile]!) squares[pixel] = fit ? squares[pixel]! / fit.excess : NaN;
  });
  return { variances: Float64Array.from(fits, (fit) => fit?.variance ?? NaN), squares, raw, residuals };
}

/** Weighs down what does not fit, in tiles without much structure: spikes would rule the fit. */
function refit(
  frame: NoiseBuffers,
  columns: readonly Column[],
  target: Float32Array,
  tiles: readonly Int32Array[],
  mask: Uint8Array,
  byFeatures: Float64Array,
  plain: Fits,
): Fits {
  const { width, height } = frame;
  const around = boxMean(
    plain.raw.map((square) => (Number.isFinite(square) ? square : 0)),
    width,
    height,
    1,
  );
  const weights = new Float32Array(target.length);
  tiles.forEach((pixels, tile) => {
    const power = clip(1 - Math.log(byFeatures[tile]! / plain.variances[tile]! / 1.5) / Math.log(4), 0, 1);
    const middle = quantile(
      Array.from(pixels, (pixel) => around[pixel]!),
      0.5,
    );
    const inverse = Array.from(pixels, (pixel) => 1 / (around[pixel]! + 0.3 * middle));
    const mean = inverse.reduce((sum, value) => sum + value, 0) / inverse.length;
    pixels.forEach((pixel, i) => {
      const weight = (inverse[i]! / mean) ** power;
      weights[pixel] = Number.isFinite(weight) ? weight : 1;
    });
  });
  return fitTiles(columns, spreadColumns(columns, frame, mask, weights), target, tiles, weights);
}

/** How bright it is around each pixel: what a spike is held against. */
function ceilingOf(luminance: Float32Array, tiles: readonly Int32Array[], { width, height }: TileGrid): Float32Array {
  let [sum, count] = [0, 0];
  for (const pixels of tiles) for (const pixel of pixels) [sum, count] = [sum + luminance[pixel]!, count + 1];
  const least = DARKEST * Math.max(0, count === 0 ? 0 : sum / count);
  return largestAround(luminance, width, height).map((value) => Math.max(0, value) + least);
}

/**
 * Means of squares, each cut where its residual is far beyond what residuals of the frame are, relative to the
 * brightness around. With few samples the quantile is so large that nothing is cut.
 *
 * @param by the squares that the quantile is taken of
 */
function cutSquares(squares: Float32Array, ceiling: Float32Array, tiles: readonly Int32Array[], by: Float32Array): Cut {
  const shares = new Float32Array(by.length);
  let count = 0;
  for (const pixels of tiles) for (const pixel of pixels) shares[count++] = Math.sqrt(by[pixel]!) / ceiling[pixel]!;
  const usual = quantile(shares.subarray(0, count), CUT_QUANTILE);
  const [low, high] = CUTS.map((times) =>
    Float64Array.from(tiles, (pixels) => {
      let sum = 0;
      for (const pixel of pixels) sum += Math.min(squares[pixel]!, Number.isNaN(usual) ? Infinity : (times * usual * ceiling[pixel]!) ** 2);
      return pixels.length === 0 ? NaN : sum / pixels.length;
    }),
  );
  return [low!, high!];
}

/** A filter joins pixels all over the picture: every so many tiles show it. */
const ROUGHNESS_EVERY = 3;

/** A low quantile over tiles of the variance of rougher residuals over that of the high-passed ones. */
function roughnessOf(frame: NoiseBuffers): number {
  const { width, height } = frame;
  const { luminance, own, tiles, mask } = prepared(frame);
  const some = tiles.map((_, tile) => tile).filter((tile) => tile % ROUGHNESS_EVERY === 0);
  const rough = fitTiles(
    featureColumns(frame, laplacian).map((column) => maskedColumn(column, mask)),
    null,
    masked(laplacian(luminance, width, height), mask),
    some.map((tile) => tiles[tile]!),
    null,
  ).variances;
  return quantile(
    some.map((tile, i) => rough[i]! / own.variances[tile]!),
    0.2,
  );
}

/** What each neighbour shows at the very same pixels, and how much of each tile it shows at all. */
function beside(frame: NoiseBuffers, neighbours: readonly Neighbour[]): Pick<FrameFigures, 'held' | 'known' | 'still'> {
  const { tiles, target, own } = prepared(frame);
  const standsStill = stillPixels(frame);
  const each = neighbours.map(({ frame: other, places }) => {
    const theirs = prepared(other);
    const both = tiles.map((pixels) => pixels.filter((pixel) => theirs.mask[pixel] !== 0));
    const still = both.map((pixels) => pixels.filter((pixel) => standsStill[pixel] !== 0));
    const shareOf = (some: Int32Array, tile: number) => (tiles[tile]!.length === 0 ? 0 : some.length / tiles[tile]!.length);
    return {
      held: Float64Array.from(both, (pixels) => correlation(own.residuals, theirs.own.residuals, pixels)),
      known: Float64Array.from(tiles, (pixels, tile) =>
        shareOf(
          pixels.filter((pixel) => places[pixel]! >= 0),
          tile,
        ),
      ),
      still: {
        difference: Float64Array.from(still, (pixels) => meanOf(target, pixels, (value, pixel) => (value - theirs.target[pixel]!) ** 2 / 2)),
        share: Float64Array.from(still, shareOf),
      },
    };
  });
  return { held: each.map((one) => one.held), known: each.map((one) => one.known), still: each.map((one) => one.still) };
}

/** 1 where nothing around moves. */
function stillPixels({ motion, width, height }: NoiseBuffers): Uint8Array {
  if (!motion) return new Uint8Array(width * height);
  const moving = motion[0].map((across, i) => Math.abs(across) + Math.abs(motion[1][i]!));
  return Uint8Array.from(largestAround(numbersOf(moving), width, height), (most) => (most < STILL ? 1 : 0));
}

function correlation(a: Float32Array, b: Float32Array, pixels: Int32Array): number {
  let [aa, bb, ab] = [0, 0, 0];
  for (const pixel of pixels) {
    aa += a[pixel]! * a[pixel]!;
    bb += b[pixel]! * b[pixel]!;
    ab += a[pixel]! * b[pixel]!;
  }
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : NaN;
}

function meanOf(values: Float32Array, pixels: Int32Array, of: (value: number, pixel: number) => number = (value) => value): number {
  let sum = 0;
  for (const pixel of pixels) sum += of(values[pixel]!, pixel);
  return pixels.length === 0 ? NaN : sum / pixels.length;
}

function meanOfNumbers(values: Float32Array): number | null {
  let [sum, count] = [0, 0];
  for (const value of values) if (Number.isFinite(value)) [sum, count] = [sum + value, count + 1];
  return count === 0 ? null : sum / count;
}

const maskedColumn = ({ values, noisy }: Column, mask: Uint8Array): Column => ({ values: masked(values, mask), noisy });
export const clip = (value: number, least: number, most: number) => Math.min(most, Math.max(least, value));
