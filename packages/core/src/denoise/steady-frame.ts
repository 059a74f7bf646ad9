import { boxMean, eachPlaneBrought, planesBrought } from '../kernels/index.ts';
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
  /** Share that they would have if all of them showed the same, less that which they have: where ghosts were kept out. */
  readonly refused: Float32Array;
}

/**
 * What a companion differs by is told by so many pixels around, each of which counts for no more than so many times what noise
 * explains: a bright rim beside a pixel is not held against it. What is beyond that noise counts so many times as an error.
 */
const APART = { around: 3, most: 6, free: 1, ghost: 4 } as const;
/** And by those next to it, for all that they differ: that finds what is narrow. So few pixels differ by more than that by chance. */
const NEXT = { around: 1, most: Infinity, free: 2, ghost: 2 } as const;

/**
 * Averages a filtered frame with its companions, each as much as it can be trusted: its own error is what the filter left and
 * a part of what there was; what it differs by beyond that, around a pixel, is another thing, and would be a ghost.
 */
export function steadyFrame(frame: FrameToSteady, companions: readonly Companion[]): SteadiedFrame {
  const { width, height, colours, lights, left, leftAround, deviation } = frame;
  const count = width * height;
  const luminance = greyOf(colours);
  const weights = new Float32Array(count).fill(1);
  const refused = new Float32Array(count);
  const share = new Float32Array(count);
  const [own, along] = [[...colours, left], lights.flatMap((light) => light ?? [])];
  const [sums, sumsAlong] = [own.map((plane) => plane.slice()), along.map((plane) => plane.slice())];
  const add = (plane: Float32Array, to: Float32Array) => {
    for (let i = 0; i < count; i++) to[i] = to[i]! + share[i]! * plane[i]!;
  };
  for (const { frame: other, trail } of companions) {
    const seen = seenAt(frame, other, trail);
    const brought = planesBrought([...other.colours, other.left], trail, width, height);
    const grey = greyOf(brought.slice(0, -1));
    const apart = new Float32Array(count);
    for (let i = 0; i < count; i++) {
      const at = seen[i]!;
      if (at < 0) continue;
      const explained = leftAround[i]! + other.leftAround[at]! + deviation[i]! ** 2 + 1e-12;
      apart[i] = (grey[i]! - luminance[i]!) ** 2 / explained;
    }
    const [byApart, byNext] = [trusted(apart, width, height, APART), trusted(apart, width, height, NEXT)];
    for (let i = 0; i < count; i++) {
      const weight = seen[i]! < 0 ? 0 : Math.min(byApart[i]!, byNext[i]!);
      share[i] = weight;
      weights[i] = weights[i]! + weight;
      refused[i] = refused[i]! + 1 - weight;
    }
    sums.forEach((sum, c) => add(brought[c]!, sum));
    const theirs = lights.flatMap((light, l) => (light ? lightBeside(light, other.lights[l] ?? null) : []));
    // What a companion lacks is taken as the frame itself shows it.
    theirs.forEach((plane, c) => plane ?? add(along[c]!, sumsAlong[c]!));
    const there = theirs.flatMap((plane, c) => (plane ? [{ plane, sum: sumsAlong[c]! }] : []));
    eachPlaneBrought(
      there.map(({ plane }) => plane),
      trail,
      width,
      height,
      (plane, c) => add(plane, there[c]!.sum),
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

/** How much a companion is trusted at each pixel, from 0 to 1. @param apart squares of what it differs by, over what noise explains */
function trusted(apart: Float32Array, width: number, height: number, { around, most, free, ghost }: typeof APART | typeof NEXT): Float32Array {
  const trust = boxMean(most === Infinity ? apart : apart.map((value) => Math.min(value, most)), width, height, around);
  for (let i = 0; i < trust.length; i++) trust[i] = 1 / (1 + ghost * Math.max(0, trust[i]! - free));
  return trust;
}

/** A light's planes as a companion has them; nulls where it lacks the light, or has it in other colours. */
function lightBeside(light: readonly Float32Array[], other: LightPlanes): (Float32Array | null)[] {
  return light.map((_, c) => (other?.length === light.length ? other[c]! : null));
}
