import { isOff } from './light-sum.ts';
import type { Luminance } from './luminance.ts';

/** Where the lights do not sum to the beauty, for the screen: red, green, blue and alpha of 8 bits, clear where they do. */
export interface SumPicture {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array;
  /** Share of the pixels where they do not. */
  readonly share: number;
}

/** Of the lights too little, and too much. */
const LACKS = [255, 122, 89] as const;
const EXCEEDS = [122, 176, 255] as const;
/** Alpha of the least, and of what is as bright as the picture. */
const [FAINTEST, FULL] = [110, 255];

/**
 * Paints what the lights lack, or have too much of.
 *
 * @param longest side of the picture; of a larger frame each pixel shows the worst of those that it stands for
 * @returns null when the sizes differ
 */
export function paintSum(beauty: Luminance, lights: readonly Luminance[], longest: number): SumPicture | null {
  const { width, height } = beauty;
  if (lights.some((light) => light.width !== width || light.height !== height)) return null;
  const step = Math.max(1, Math.ceil(Math.max(width, height) / longest));
  const [across, down] = [Math.ceil(width / step), Math.ceil(height / step)];
  const worst = new Float32Array(across * down);
  let off = 0;
  for (let y = 0, i = 0; y < height; y++) {
    const row = Math.floor(y / step) * across;
    for (let x = 0; x < width; x++, i++) {
      const own = beauty.values[i]!;
      let sum = 0;
      for (const light of lights) sum += light.values[i]!;
      if (!Number.isFinite(own) || !Number.isFinite(sum) || !isOff(sum, own)) continue;
      off++;
      const place = row + Math.floor(x / step);
      if (Math.abs(sum - own) > Math.abs(worst[place]!)) worst[place] = sum - own;
    }
  }
  const data = new Uint8Array(across * down * 4);
  const usual = Math.max(1e-6, meanOf(beauty.values));
  worst.forEach((difference, place) => {
    if (difference === 0) return;
    const strength = Math.min(1, Math.abs(difference) / usual);
    data.set(difference < 0 ? LACKS : EXCEEDS, place * 4);
    data[place * 4 + 3] = Math.round(FAINTEST + (FULL - FAINTEST) * strength);
  });
  return { width: across, height: down, data, share: width * height === 0 ? 0 : off / (width * height) };
}

function meanOf(values: Float32Array): number {
  let [sum, count] = [0, 0];
  for (const value of values) {
    if (!Number.isFinite(value)) continue;
    sum += value;
    count++;
  }
  return count === 0 ? 0 : sum / count;
}
