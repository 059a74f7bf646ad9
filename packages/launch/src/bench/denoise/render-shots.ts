import { existsSync } from 'node:fs';
import path from 'node:path';
import { renderFrame, type StudyName } from '@mint-tally/standin-farm';
import { FEATURE_PASSES, LIGHT_PASSES, passFile, writePasses } from '../feature-passes.ts';

/** Five frames in a row, of which the middle one is looked at; and what is known of it and of the one before. */
export const FRAMES = 5;
export const MIDDLE = 2;
export const REFERENCE = 1024;
const STEP = 1 / 400;

/** Small pictures, in one of which what turns goes ten times as fast; small ones are hard, since edges are a large part of them; and some nearer to those of a production, with their lights where these are held too. */
export const shotSizes = {
  small: { width: 240, height: 136, counts: [4, 16, 64], step: STEP },
  fast: { width: 240, height: 136, counts: [16], step: 10 * STEP },
  large: { width: 480, height: 270, counts: [16, 64], step: STEP },
  lights: { width: 480, height: 270, counts: [16, 64], step: STEP },
} as const;
export type ShotSize = keyof typeof shotSizes;

export const shotFolder = (top: string, size: ShotSize, study: StudyName, samples: number) => path.join(top, `${size}-${study}-${samples}`);

export const settingsOf = (study: StudyName, size: ShotSize, place: number) => ({
  view: study,
  time: 0.2 + place * shotSizes[size].step,
  step: shotSizes[size].step,
  width: shotSizes[size].width,
  height: shotSizes[size].height,
  meanFeatures: true,
  halves: true,
});

/** Renders a study at each number of samples, and what stands for the truth; what is there already stays. */
export function renderShots(top: string, size: ShotSize, study: StudyName): void {
  const passes = size === 'lights' ? [...FEATURE_PASSES, ...LIGHT_PASSES] : FEATURE_PASSES;
  for (const samples of [...shotSizes[size].counts, REFERENCE]) {
    const folder = shotFolder(top, size, study, samples);
    for (let place = 0; place < FRAMES; place++) {
      if (samples === REFERENCE && place !== MIDDLE && place !== MIDDLE - 1) continue;
      if (passes.every((pass) => existsSync(passFile(folder, pass, place)))) continue;
      const frame = renderFrame({ ...settingsOf(study, size, place), samples, seed: samples * 100 + place });
      writePasses(folder, place, frame, samples, samples === REFERENCE, passes);
    }
  }
}
