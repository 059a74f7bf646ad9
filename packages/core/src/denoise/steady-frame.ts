import { boxMean } from '../assay/noise/index.ts';
import { bring, seenAt, type Surfaces } from './bring.ts';
import { greyOf } from './grey.ts';
import type { Trail, Vectors } from './trails.ts';

/** A filtered frame, with what its neighbours are brought onto it by. */
export interface FrameToSteady extends Surfaces {
  readonly colours: readonly Float32Array[];
  /** What is left of noise as large as the picture's: see FilteredFrame. */
  readonly left: Float32Array;
  readonly deviation: Float32Array;
  readonly motion: Vectors | null;
}

/** A frame before or after, and where the frame's points are in it. */
export interface Companion {
  readonly frame: FrameToSteady;
  readonly trail: Trail;
}

export interface SteadiedFrame {
  readonly colours: readonly Float32Array[];
  readonly left: Float32Array;
  /** Share of each pixel that comes from the companions: 0 where none shows the same. */
  readonly taken: Float32Array;
  /** Share that they would have if all of them showed the same, less that which they have: where ghosts were kept out. */
  readonly refused: Float32Array;
}

/** What is left of the noise is told by so many pixels around; what companions differ by, likewise. */
const LEFT_AROUND = 4;
const APART_AROUND = 3;
/** What a companion shows otherwise than the noise explains counts so many times as an error. */
const GHOST = 4;

/**
 * Averages a filtered frame with its companions, each as much as it can be trusted: its own error is what the filter left and
 * a part of what there was; what it differs by beyond that, around a pixel, is another thing, and would be a ghost.
 */
export function steadyFrame(frame: FrameToSteady, companions: readonly Companion[]): SteadiedFrame {
  const { width, height, colours, left, deviation } = frame;
  const count = width * height;
  const own = squaresAround(left, width, height);
  const luminance = greyOf(colours);
  const weights = new Float32Array(count).fill(1);
  const refused = new Float32Array(count);
  const sums = [...colours, left].map((plane) => plane.slice());
  for (const { frame: other, trail } of companions) {
    const seen = seenAt(frame, other, trail);
    const brought = bring([...other.colours, other.left], trail, seen, width, height);
    const theirs = squaresAround(other.left, width, height);
    const grey = greyOf(brought.slice(0, -1));
    const apart = boxMean(
      grey.map((value, i) => (seen[i]! < 0 ? 0 : (value - luminance[i]!) ** 2)),
      width,
      height,
      APART_AROUND,
    );
    for (let i = 0; i < count; i++) {
      const at = seen[i]!;
      if (at < 0) {
        refused[i] = refused[i]! + 1;
        continue;
      }
      const explained = own[i]! + theirs[at]! + deviation[i]! ** 2 + 1e-12;
      const weight = explained / (explained + GHOST * Math.max(0, apart[i]! - explained));
      weights[i] = weights[i]! + weight;
      refused[i] = refused[i]! + 1 - weight;
      for (let c = 0; c < sums.length; c++) sums[c]![i] = sums[c]![i]! + weight * brought[c]![i]!;
    }
  }
  for (const plane of sums) for (let i = 0; i < count; i++) plane[i] = plane[i]! / weights[i]!;
  const steadied = sums.pop()!;
  return {
    colours: sums,
    left: steadied,
    taken: weights.map((weight) => 1 - 1 / weight),
    refused: refused.map((share) => share / Math.max(1, companions.length)),
  };
}

function squaresAround(plane: Float32Array, width: number, height: number): Float32Array {
  return boxMean(
    plane.map((value) => value * value),
    width,
    height,
    LEFT_AROUND,
  );
}
