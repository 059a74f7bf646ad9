import { fitPicture, sumUpValues, type FitPlane, type LeftOver, type PictureFit, type Sight, type ValueSums } from '../../kernels/index.ts';
import { alongSome } from '../some-pixels.ts';
import type { NoiseBuffers } from './buffers.ts';
import { filledIn, measuredPixels, type Neighbour } from './columns.ts';
import type { SharedPixels } from './shared-samples.ts';
import { gridOf, type TileGrid } from './tiles.ts';
import type { Places } from './warp.ts';

/** Of larger pictures so many pixels tell a mean or a quantile well enough. */
export const ENOUGH = 60_000;
/** Of the frame's mean luminance, added to the brightness around, so that black has one. */
const DARKEST = 0.02;

/** Regresses a frame on its features and on what its neighbours show; what the features alone leave is kept as well, unless it is known. */
export function fitBeside(frame: NoiseBuffers, sights: readonly Sight[]) {
  const known = preparedFrames.get(frame);
  const basis = known ?? basisOf(frame);
  const picture = { ...toFit(frame, basis), sights, byFeatures: known?.variances, filter: 'highPass', every: 1 } as const;
  const whole = fitPicture(picture, ['squares', 'shares'], known ? null : PREPARED_PLANES);
  if (whole.alone) keepPrepared(frame, basis, whole, whole.alone);
  return whole;
}

/** Neighbours whose own figures are known: the frames before, as frames are measured in order; of the first frame the nearest. */
export function comparedWith(neighbours: readonly Neighbour[]): { readonly frame: Prepared; readonly places: Places }[] {
  const known = neighbours.filter(({ frame }) => preparedFrames.has(frame));
  return (known.length > 0 ? known : neighbours.slice(0, 1)).map(({ frame, places }) => ({ frame: prepared(frame), places }));
}

/** What is worked out of a frame by itself: once, although it is a neighbour of others as well. */
export interface Prepared {
  readonly frame: NoiseBuffers;
  readonly grid: TileGrid;
  /** 1 for the pixels that are measured. */
  readonly mask: Uint8Array;
  /** Pixels that are measured, and their mean luminance, tile by tile. */
  readonly pixels: Float64Array;
  readonly means: Float64Array;
  /** Variance of the high-passed luminance, structure and all. */
  readonly total: Float64Array;
  readonly luminance: Float32Array;
  /** Mean luminance of all pixels that are numbers. */
  readonly meanLuminance: number | null;
  /** What is added to the brightness around a pixel. */
  readonly least: number;
  /** Of the fit by the features alone; see PictureFit. */
  readonly variances: Float64Array;
  readonly squares: Float32Array;
  readonly shares: Float32Array;
  readonly residuals: Float32Array;
  /** High-passed luminance. */
  readonly target: Float32Array;
  /** 1 at the rims of things. */
  readonly rims: Float32Array;
  /** Which pixels things share, and what luminance holds within them. */
  readonly shared: SharedPixels;
}

const preparedFrames = new WeakMap<NoiseBuffers, Prepared>();

type Size = Pick<TileGrid, 'width' | 'height'>;
type Basis = Pick<Prepared, 'mask' | 'luminance' | 'meanLuminance' | 'least'>;
const PREPARED_PLANES = ['squares', 'shares', 'residuals', 'target', 'rims'] as const;

function basisOf(frame: NoiseBuffers): Basis {
  const mask = measuredPixels(frame);
  const [{ sum, nan, infinite }] = sumUpValues('float', frame.luminance, 1) as [ValueSums];
  const none = nan + infinite;
  const luminance = none === 0 ? frame.luminance : filledIn(frame.luminance, frame.width, frame.height);
  const count = luminance.length - none;
  const meanLuminance = count === 0 ? null : sum / count;
  return { mask, luminance, meanLuminance, least: DARKEST * Math.max(0, meanOfMeasured(luminance, mask, frame)) };
}

function keepPrepared(
  frame: NoiseBuffers,
  basis: Basis,
  { pixels, means, totals, within, withinShared, shared }: Pick<PictureFit<never, never>, 'pixels' | 'means' | 'totals' | 'within' | 'withinShared' | 'shared'>,
  { variances, planes }: LeftOver<(typeof PREPARED_PLANES)[number]>,
): Prepared {
  const perPixel = (sums: Float64Array) => sums.map((sum, tile) => sum / pixels[tile]!);
  const total = perPixel(totals);
  const made = {
    ...basis,
    frame,
    grid: gridOf(frame),
    pixels,
    means,
    total,
    variances,
    ...planes,
    shared: { within: perPixel(within), withinShared: perPixel(withinShared), share: perPixel(shared) },
  };
  preparedFrames.set(frame, made);
  return made;
}

export function prepared(frame: NoiseBuffers): Prepared {
  const known = preparedFrames.get(frame);
  if (known) return known;
  const basis = basisOf(frame);
  const fit = fitPicture({ ...toFit(frame, basis), sights: [], filter: 'highPass', every: 1 }, PREPARED_PLANES);
  return keepPrepared(frame, basis, fit, fit);
}

export function toFit(frame: NoiseBuffers, { mask, luminance, least }: Basis) {
  const { width, height, albedo, normal, depth } = frame;
  return { width, height, luminance, mask, albedo, normal, depth, least };
}

/** By the features alone, of what another filter leaves, which leaves more of what is smooth. */
export function rougherFit<Names extends FitPlane>(frame: NoiseBuffers, basis: Basis, every: number, wanted: readonly Names[]) {
  return fitPicture({ ...toFit(frame, basis), sights: [], filter: 'laplacian', every }, wanted);
}

/** Of larger pictures by some pixels, all over them. */
function meanOfMeasured(luminance: Float32Array, mask: Uint8Array, { width, height }: Size): number {
  let [sum, count] = [0, 0];
  alongSome(width, height, ENOUGH, (_, line, first, end) => {
    for (let i = line + first; i < line + end; i++) {
      if (mask[i] === 0) continue;
      sum += luminance[i]!;
      count++;
    }
  });
  return count === 0 ? 0 : sum / count;
}
