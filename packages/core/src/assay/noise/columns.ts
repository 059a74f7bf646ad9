import { added, boxMean, correlate, highPass, masked, whole3x3 } from './filters.ts';
import { FARTHEST, type NoiseBuffers } from './buffers.ts';
import type { Column } from './regress.ts';
import type { Places } from './warp.ts';

/** A neighbour in time, with the place of each of the frame's pixels in it. */
export interface Neighbour {
  readonly frame: NoiseBuffers;
  readonly places: Places;
}

/** 1 for the pixels that are measured: the 3 x 3 around them are numbers, are covered, and are there. */
export function measuredPixels({ luminance, alpha, width, height }: NoiseBuffers): Uint8Array {
  const told = new Uint8Array(luminance.length);
  for (let i = 0; i < told.length; i++) told[i] = Number.isFinite(luminance[i]) && (alpha === null || alpha[i]! > 0) ? 1 : 0;
  return whole3x3(told, width, height);
}

/** A plane with zero for what is no number. */
export function numbersOf(plane: Float32Array): Float32Array {
  const out = plane.slice();
  for (let i = 0; i < out.length; i++) if (!Number.isFinite(out[i])) out[i] = 0;
  return out;
}

/** A plane with the mean of what is around for what is no number: means over it stay what they are. */
export function filledIn(plane: Float32Array, width: number, height: number): Float32Array {
  const out = numbersOf(plane);
  const told = new Float32Array(plane.length);
  let isWhole = true;
  for (let i = 0; i < told.length; i++) {
    told[i] = Number.isFinite(plane[i]) ? 1 : 0;
    isWhole &&= told[i] === 1;
  }
  if (isWhole) return out;
  const [sums, counts] = [boxMean(out, width, height, 2), boxMean(told, width, height, 2)];
  for (let i = 0; i < out.length; i++) if (told[i] === 0 && counts[i]! > 0) out[i] = sums[i]! / counts[i]!;
  return out;
}

/** What the surfaces explain: albedo, normal, nearness, and texture times the light that falls on it. @param filter that goes over each */
export function featureColumns(frame: NoiseBuffers, filter = highPass): Column[] {
  const { width, height, albedo, normal, depth } = frame;
  const planes: Float32Array[] = [];
  if (albedo) planes.push(numbersOf(albedo), litTexture(filledIn(frame.luminance, width, height), numbersOf(albedo), width, height));
  if (normal) planes.push(...normal.map(numbersOf));
  if (depth) planes.push(nearness(depth));
  return planes.map((plane) => ({ values: filter(plane, width, height), noisy: null }));
}

/** Texture times smooth light, which carries shadow edges over texture. */
function litTexture(luminance: Float32Array, albedo: Float32Array, width: number, height: number): Float32Array {
  const [light, mean] = [boxMean(luminance, width, height, 2), boxMean(albedo, width, height, 2)];
  const lit = new Float32Array(albedo.length);
  for (let i = 0; i < lit.length; i++) lit[i] = (albedo[i]! * light[i]!) / (mean[i]! + 0.001);
  return lit;
}

/** The inverse of depth, 4 at its largest, 0 where nothing is met. */
function nearness(depth: Float32Array): Float32Array {
  const near = new Float32Array(depth.length);
  let most = 0;
  for (let i = 0; i < near.length; i++) {
    near[i] = depth[i]! > 0 && depth[i]! < FARTHEST ? 1 / depth[i]! : 0;
    most = Math.max(most, near[i]!);
  }
  if (most > 0) for (let i = 0; i < near.length; i++) near[i] = (4 * near[i]!) / most;
  return near;
}

/** Centre, left, right, up and down, as steps in the picture. */
const SHIFTS = [
  [0, 0],
  [-1, 0],
  [1, 0],
  [0, -1],
  [0, 1],
] as const;

interface Shifted {
  readonly columns: readonly Float32Array[];
  readonly known: Uint8Array;
}

/** A neighbour's luminance at each pixel's place there and beside it, high-passed after it was brought here: nearest pixels, nothing interpolated. */
function shiftedColumns({ frame, places }: Neighbour, { width, height }: NoiseBuffers): Shifted {
  const luminance = numbersOf(frame.luminance);
  const placed = new Uint8Array(places.length);
  for (let i = 0; i < placed.length; i++) placed[i] = places[i]! >= 0 ? 1 : 0;
  const known = whole3x3(placed, width, height);
  const columns = SHIFTS.map(([dx, dy]) => {
    const brought = new Float32Array(places.length);
    for (let i = 0; i < places.length; i++) {
      const at = places[i]!;
      if (at < 0) continue;
      const x = Math.min(width - 1, Math.max(0, (at % width) + dx));
      const y = Math.min(height - 1, Math.max(0, Math.floor(at / width) + dy));
      brought[i] = luminance[y * width + x]!;
    }
    return masked(highPass(brought, width, height), known);
  });
  return { columns, known };
}

/**
 * What the neighbours in time show of the same surfaces. In the small form both centres stand alone, and each shift of
 * the first goes with the opposite one of the second: half the columns, which cost less noise.
 */
export function neighbourColumns(frame: NoiseBuffers, neighbours: readonly Neighbour[], form: 'small' | 'full'): Column[] {
  const shifted = neighbours.map((neighbour) => shiftedColumns(neighbour, frame));
  const single = (one: Shifted, shift: number): Column => ({ values: one.columns[shift]!, noisy: one.known });
  if (form === 'full' || shifted.length < 2) return shifted.flatMap((one) => SHIFTS.map((_, shift) => single(one, shift)));
  const [first, second] = shifted as [Shifted, Shifted];
  const OPPOSITE = [0, 2, 1, 4, 3];
  const knownTwice = first.known.map((is, i) => is + second.known[i]!);
  const sums = [1, 2, 3, 4].map((shift): Column => {
    const other = second.columns[OPPOSITE[shift]!]!;
    return { values: added(first.columns[shift]!, other), noisy: knownTwice };
  });
  return [single(first, 0), single(second, 0), ...sums];
}

/** Columns as the autocorrelation of the high-pass spreads them. @param weights of pixels; null where all count the same */
export function spreadColumns(columns: readonly Column[], { width, height }: NoiseBuffers, mask: Uint8Array, weights: Float32Array | null): Float32Array[] {
  return columns.map(({ values }) => {
    const own = masked(values, mask);
    if (weights) for (let i = 0; i < own.length; i++) own[i] = own[i]! * weights[i]!;
    return correlate(own, width, height);
  });
}
