import type { Luminance } from './luminance.ts';

/** How the light passes of a frame sum to its beauty. */
export interface LightSum {
  /** Share of the pixels where they do not. */
  readonly share: number;
  /** Light of the sum over that of the beauty, over the whole picture. */
  readonly ratio: number;
  /** The light that explains it; null where none does, or it sums. */
  readonly repair: SumRepair | null;
}

/** So much may lack: passes that are packed with losses, or kept as halves, do not sum to the last digit. */
const LEAST = 0.01;
const RELATIVE = 0.02;

/** A light that explains most of what a sum lacks: taken so many times, the sum would fit. */
export interface SumRepair {
  readonly pass: string;
  readonly times: number;
}

/** A repair has to leave less than this share of the pixels that did not sum. */
const REPAIRED = 0.2;

/** Holds the sum of the light passes against the beauty. @returns null when a size differs */
export function sumOfLights(beauty: Luminance, lights: readonly (Luminance & { readonly pass: string })[]): LightSum | null {
  const { width, height, values } = beauty;
  if (lights.length === 0 || lights.some((light) => light.width !== width || light.height !== height)) return null;
  let [off, all, ofSum, ofBeauty] = [0, 0, 0, 0];
  // What is lacking, over each light: by least squares so many times the light has to be added.
  const [products, squares] = [lights.map(() => 0), lights.map(() => 0)];
  for (let i = 0; i < values.length; i++) {
    const own = values[i]!;
    let sum = 0;
    for (const light of lights) sum += light.values[i]!;
    if (!Number.isFinite(own) || !Number.isFinite(sum)) continue;
    all++;
    ofSum += sum;
    ofBeauty += own;
    if (!isOff(sum, own)) continue;
    off++;
    for (let l = 0; l < lights.length; l++) {
      const light = lights[l]!.values[i]!;
      products[l] = products[l]! + light * (own - sum);
      squares[l] = squares[l]! + light * light;
    }
  }
  if (all === 0) return null;
  const more = products.map((product, l) => (squares[l]! > 0 ? product / squares[l]! : 0));
  return { share: off / all, ratio: ofBeauty === 0 ? NaN : ofSum / ofBeauty, repair: off === 0 ? null : repairOf(values, lights, more, off) };
}

/** Whether a sum misses a beauty's pixel by more than files that are packed with losses do. */
export const isOff = (sum: number, own: number) => Math.abs(sum - own) > LEAST + RELATIVE * Math.abs(own);

/** The light that leaves the fewest pixels off when it is taken more or less often; null where none repairs the sum. */
function repairOf(
  beauty: Float32Array,
  lights: readonly { readonly pass: string; readonly values: Float32Array }[],
  more: readonly number[],
  off: number,
): SumRepair | null {
  const left = lights.map(() => 0);
  for (let i = 0; i < beauty.length; i++) {
    const own = beauty[i]!;
    let sum = 0;
    for (const light of lights) sum += light.values[i]!;
    if (!Number.isFinite(own) || !Number.isFinite(sum)) continue;
    for (let l = 0; l < lights.length; l++) if (isOff(sum + more[l]! * lights[l]!.values[i]!, own)) left[l] = left[l]! + 1;
  }
  const best = left.reduce((least, count, l) => (count < left[least]! ? l : least), 0);
  return left[best]! < REPAIRED * off ? { pass: lights[best]!.pass, times: 1 + more[best]! } : null;
}
