import type { Luminance } from './luminance.ts';

/** How the light passes of a frame sum to its beauty. */
export interface LightSum {
  /** Share of the pixels where they do not. */
  readonly share: number;
  /** Light of the sum over that of the beauty, over the whole picture. */
  readonly ratio: number;
}

/** So much may lack: passes that are packed with losses, or kept as halves, do not sum to the last digit. */
const LEAST = 0.01;
const RELATIVE = 0.02;

/** Holds the sum of the light passes against the beauty. @returns null when a size differs */
export function sumOfLights(beauty: Luminance, lights: readonly Luminance[]): LightSum | null {
  const { width, height, values } = beauty;
  if (lights.length === 0 || lights.some((light) => light.width !== width || light.height !== height)) return null;
  let [off, all, ofSum, ofBeauty] = [0, 0, 0, 0];
  for (let i = 0; i < values.length; i++) {
    const own = values[i]!;
    let sum = 0;
    for (const light of lights) sum += light.values[i]!;
    if (!Number.isFinite(own) || !Number.isFinite(sum)) continue;
    all++;
    ofSum += sum;
    ofBeauty += own;
    if (Math.abs(sum - own) > LEAST + RELATIVE * Math.abs(own)) off++;
  }
  return all === 0 ? null : { share: off / all, ratio: ofBeauty === 0 ? NaN : ofSum / ofBeauty };
}
