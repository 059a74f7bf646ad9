import { areNumbers, boxMean, toldAround } from '../../kernels/index.ts';
import type { NoiseBuffers } from './buffers.ts';
import type { Places } from './warp.ts';

/** A neighbour in time, with the place of each of the frame's pixels in it. */
export interface Neighbour {
  readonly frame: NoiseBuffers;
  readonly places: Places;
}

/** 1 for the pixels that are measured: the 3 x 3 around them are numbers, are covered, and are there. */
export function measuredPixels({ luminance, alpha, width, height }: NoiseBuffers): Uint8Array {
  return toldAround(luminance, alpha, width, height);
}

/** A plane with zero for what is no number; the very plane where all are. */
export function numbersOf(plane: Float32Array): Float32Array {
  if (areNumbers(plane)) return plane;
  const out = plane.slice();
  for (let i = 0; i < out.length; i++) if (!Number.isFinite(out[i])) out[i] = 0;
  return out;
}

/** A plane with the mean of what is around for what is no number: means over it stay what they are. */
export function filledIn(plane: Float32Array, width: number, height: number): Float32Array {
  const out = numbersOf(plane);
  if (out === plane) return plane;
  const told = new Float32Array(plane.length);
  for (let i = 0; i < told.length; i++) told[i] = Number.isFinite(plane[i]) ? 1 : 0;
  const [sums, counts] = [boxMean(out, width, height, 2), boxMean(told, width, height, 2)];
  for (let i = 0; i < out.length; i++) if (told[i] === 0 && counts[i]! > 0) out[i] = sums[i]! / counts[i]!;
  return out;
}
