import { boxMean, eachPlaneBrought, planesBrought, shareOf, weighedBeside, type OwnPixels } from '../kernels/index.ts';
import type { FilteredFrame, LightPlanes } from './filter-frame.ts';
import { greyOf } from './grey.ts';
import { seenAt, type Surfaces } from './seen-at.ts';
import type { Trail, Vectors } from './trails.ts';

/** A filtered frame, with what its neighbours are brought onto it by. */
export interface FrameToSteady extends Surfaces, Pick<FilteredFrame, 'colours' | 'lights' | 'left' | 'leftAround' | 'deviation'> {
  readonly motion: Vectors | null;
}

/** A frame before or after, and where the frame's points are in it. */
export interface Companion {
  readonly frame: FrameToSteady;
  readonly trail: Trail;
}

export interface SteadiedFrame {
  readonly colours: readonly Float32Array[];
  readonly lights: readonly LightPlanes[];
  readonly left: Float32Array;
  /** Share of each pixel that comes from the companions: 0 where none shows the same. */
  readonly taken: Float32Array;
  /** Share of the companions that were kept out, since they show something else: where there would be ghosts. */
  readonly refused: Float32Array;
}

/**
 * What a companion differs by is told by so many pixels around, each of which counts for no more than so many times what noise
 * explains: a bright rim beside a pixel is not held against it. What is beyond that noise counts so many times as an error.
 */
const APART = { around: 3, most: 6, free: 1, ghost: 4 };
/** And by those next to it, for all that they differ: that finds what is narrow. So few pixels differ by more than that by chance. */
const NEXT = { around: 1, free: 2, ghost: 2 };

/** Half-way between two pixels what is brought from there errs by so much of the step from one to the other. */
const HALF_WAY = 0.3;
/** Variance that there always is. */
const LEAST = 1e-12;

/**
 * Averages a filtered frame with its companions, each as much as it can be trusted: its error is what the filter left, what may
 * be left of what there was before, and what is lost where it lies between pixels. What it differs by beyond that, around a
 * pixel, is another thing, and would be a ghost; and what errs more than the frame itself does counts for as much less (by the
 * inverse of the variance). So a frame with hardly any noise is not made softer by its neighbours.
 */
export function steadyFrame(frame: FrameToSteady, companions: readonly Companion[]): SteadiedFrame {
  const { width, height, colours, lights, left } = frame;
  const count = width * height;
  const pixels = pixelsOf(frame);
  const weights = new Float32Array(count).fill(1);
  const refused = new Float32Array(count);
  const [own, along] = [[...colours, left], lights.flatMap((light) => light ?? [])];
  const [sums, sumsAlong] = [own.map((plane) => plane.slice()), along.map((plane) => plane.slice())];
  const add = (plane: Float32Array, share: Float32Array, to: Float32Array) => {
    for (let i = 0; i < count; i++) to[i] = to[i]! + share[i]! * plane[i]!;
  };
  for (const { frame: other, trail } of companions) {
    const brought = planesBrought([...other.colours, other.left], trail, width, height);
    const beside = { grey: greyOf(brought.slice(0, -1)), left: leftWhereSeen(frame, { frame: other, trail }), ...trail };
    const { apart, capped, worth } = weighedBeside(pixels, beside, HALF_WAY, LEAST, APART.most);
    const mean = (plane: Float32Array, { around }: typeof NEXT) => boxMean(plane, width, height, around);
    const share = shareOf(
      [
        [mean(capped, APART), APART],
        [mean(apart, NEXT), NEXT],
      ],
      beside,
      worth,
      weights,
      refused,
    );
    sums.forEach((sum, c) => add(brought[c]!, share, sum));
    const theirs = lights.flatMap((light, l) => (light ? lightBeside(light, other.lights[l] ?? null) : []));
    // What a companion lacks is taken as the frame itself shows it.
    theirs.forEach((plane, c) => plane ?? add(along[c]!, share, sumsAlong[c]!));
    const there = theirs.flatMap((plane, c) => (plane ? [{ plane, sum: sumsAlong[c]! }] : []));
    eachPlaneBrought(
      there.map(({ plane }) => plane),
      trail,
      width,
      height,
      (plane, c) => add(plane, share, there[c]!.sum),
    );
  }
  for (const plane of [...sums, ...sumsAlong]) for (let i = 0; i < count; i++) plane[i] = plane[i]! / weights[i]!;
  const steadied = sums.pop()!;
  return {
    colours: sums,
    lights: lights.map((light) => light && sumsAlong.splice(0, light.length)),
    left: steadied,
    taken: weights.map((weight) => 1 - 1 / weight),
    refused: refused.map((share) => share / Math.max(1, companions.length)),
  };
}

function pixelsOf({ colours, width, height, leftAround, deviation }: FrameToSteady): OwnPixels {
  const luminance = greyOf(colours);
  return { luminance, left: leftAround, deviation, ...stepsOf(luminance, width, height) };
}

/** What the filter left around the companion's pixels, as the frame's pixels meet them; -1 where another surface is there, or none. */
function leftWhereSeen(frame: FrameToSteady, { frame: other, trail }: Companion): Float32Array {
  const seen = seenAt(frame, other, trail);
  const left = new Float32Array(seen.length);
  // Means that are summed up along lines may be less than nothing by their last digit.
  for (let i = 0; i < left.length; i++) left[i] = seen[i]! < 0 ? -1 : Math.max(0, other.leftAround[seen[i]!]!);
  return left;
}

interface Steps {
  readonly across: Float32Array;
  readonly down: Float32Array;
}

/** The larger of the steps from each pixel to those on both sides of it; none at the picture's edge. */
function stepsOf(plane: Float32Array, width: number, height: number): Steps {
  const [across, down] = [new Float32Array(plane.length), new Float32Array(plane.length)];
  for (let y = 1; y < height - 1; y++) {
    for (let i = y * width + 1; i < (y + 1) * width - 1; i++) {
      const own = plane[i]!;
      across[i] = Math.max(Math.abs(plane[i - 1]! - own), Math.abs(plane[i + 1]! - own));
      down[i] = Math.max(Math.abs(plane[i - width]! - own), Math.abs(plane[i + width]! - own));
    }
  }
  return { across, down };
}

/** A light's planes as a companion has them; nulls where it lacks the light, or has it in other colours. */
function lightBeside(light: readonly Float32Array[], other: LightPlanes): (Float32Array | null)[] {
  return light.map((_, c) => (other?.length === light.length ? other[c]! : null));
}
