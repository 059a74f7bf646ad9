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

/** What companions differ by is told by so many pixels around. */
const APART_AROUND = 3;
/** What a companion shows otherwise than the noise explains counts so many times as an error. */
const GHOST = 4;

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
    const grey = greyOf(brought.slice(0, -1)).slice();
    for (let i = 0; i < count; i++) grey[i] = seen[i]! < 0 ? 0 : (grey[i]! - luminance[i]!) ** 2;
    const apart = boxMean(grey, width, height, APART_AROUND);
    for (let i = 0; i < count; i++) {
      const at = seen[i]!;
      if (at < 0) {
        refused[i] = refused[i]! + 1;
        share[i] = 0;
        continue;
      }
      const explained = leftAround[i]! + other.leftAround[at]! + deviation[i]! ** 2 + 1e-12;
      const weight = explained / (explained + GHOST * Math.max(0, apart[i]! - explained));
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

/** A light's planes as a companion has them; nulls where it lacks the light, or has it in other colours. */
function lightBeside(light: readonly Float32Array[], other: LightPlanes): (Float32Array | null)[] {
  return light.map((_, c) => (other?.length === light.length ? other[c]! : null));
}
