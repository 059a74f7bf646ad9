import { existsSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { renderFrame, type FrameSettings, type RenderedFrame, type StudyName } from '@mint-tally/standin-farm';
import { passFile, writePasses } from '../feature-passes.ts';
import { filtered } from './pixel-filter.ts';

const TILE = 16;
/**
 * What is rendered: small pictures, which are hard, since edges are a large part of them, and some nearer to those of a
 * production, whose many pixels even out chance. And samples a pixel of the render that stands for the truth: its own error
 * is taken away, but the chance in it is not, and with twice the samples of what is measured it is as large as what is looked for.
 * Samples are spread over the pixel, but for those that are scattered: they fall anywhere in it, in the small pictures again.
 * Then what lies out of focus is blurred, and what moves, a frame as far as it does in six otherwise: features share the chance
 * of the lens and of the shutter.
 * The last are seen through pixel filters of several widths: what each neighbour counts for beside the pixel itself.
 */
export const studySizes = {
  small: { width: 160, height: 90, frames: 5, counts: [4, 16, 64, 256], reference: 2048, filters: [0] },
  middle: { width: 320, height: 180, frames: 4, counts: [4, 16, 64, 256], reference: 1024, filters: [0] },
  large: { width: 800, height: 450, frames: 3, counts: [4, 16, 64, 256], reference: 512, filters: [0] },
  scattered: { width: 160, height: 90, frames: 4, counts: [4, 16, 64, 256], reference: 1024, filters: [0] },
  lens: { width: 320, height: 180, frames: 4, counts: [4, 16, 64, 256], reference: 1024, filters: [0] },
  shutter: { width: 320, height: 180, frames: 4, counts: [4, 16, 64, 256], reference: 1024, filters: [0] },
  filters: { width: 320, height: 180, frames: 3, counts: [16, 64], reference: 256, filters: [0, 0.06, 0.1, 0.15, 0.25, 0.5] },
} as const;
export type StudySize = keyof typeof studySizes;
/** How samples are taken in some sizes: where they fall, and what they are blurred by. */
const sampling: Partial<Record<StudySize, Partial<FrameSettings> & { readonly pace?: number }>> = {
  scattered: { scattered: true },
  lens: { lens: { radius: 0.12, focus: 3.6 } },
  shutter: { shutter: 0.5, pace: 6 },
};
/**
 * When each study is seen, how far it goes on from frame to frame, and the random numbers: what was chosen with one in view is
 * held against the others.
 */
export const moments = {
  first: { time: 0.2, step: 1 / 400, seedOfTruth: 991, seedOf: (samples: number, i: number) => samples * 100 + i },
  second: { time: 0.57, step: 1 / 330, seedOfTruth: 77123, seedOf: (samples: number, i: number) => samples * 1000 + 50 + i },
  third: { time: 0.83, step: 1 / 450, seedOfTruth: 55511, seedOf: (samples: number, i: number) => samples * 777 + 11 + i },
} as const;
export type Moment = keyof typeof moments;
const WEIGHTS = [0.2126, 0.7152, 0.0722];

/** What is known of a rendered shot: for each frame the variance of each tile's sampling error, row by row. */
export type Truth = readonly (readonly number[])[];

/** The folder of a study at so many samples. @param filter see `studySizes` */
export const studyFolder = (top: string, study: StudyName, samples: number, filter = 0) =>
  path.join(top, `${study}-${samples}${filter === 0 ? '' : `-filter-${filter}`}`);

/** Its beauty's file of the frame at a place. */
export const beautyPath = (top: string, study: StudyName, samples: number, place: number) => passFile(studyFolder(top, study, samples), 'beauty', place);

/** Renders a study at each number of samples, with what is known of its noise; what is there already stays. */
export function renderStudy(top: string, study: StudyName, size: StudySize, moment: Moment): void {
  const { width, height, frames, counts, reference: samplesOfTruth, filters } = studySizes[size];
  const { time, step: usualStep, seedOfTruth, seedOf } = moments[moment];
  const { pace = 1, ...taken } = sampling[size] ?? {};
  const step = pace * usualStep;
  const wanted = counts.flatMap((samples) =>
    filters.map((filter) => ({ samples, filter, folder: studyFolder(top, study, samples, filter), truth: [] as number[][] })),
  );
  const lacking = wanted.filter(({ folder }) => !existsSync(path.join(folder, 'truth.json')));
  if (lacking.length === 0) return;
  for (let i = 0; i < frames; i++) {
    const settings = { ...taken, view: study, time: time + i * step, step, width, height, meanFeatures: true };
    const reference = renderFrame({ ...settings, samples: samplesOfTruth, seed: seedOfTruth, halves: true });
    for (const samples of new Set(lacking.map((one) => one.samples))) {
      const frame = renderFrame({ ...settings, samples, seed: seedOf(samples, i) });
      for (const { filter, folder, truth } of lacking.filter((one) => one.samples === samples)) {
        const seen = filtered(frame, filter, ['beauty', 'albedo', 'normal']);
        truth.push(tileErrors(seen, filtered(reference, filter, ['beauty', 'half1', 'half2'])));
        writePasses(folder, i, seen, samples);
      }
    }
  }
  for (const { folder, truth } of lacking) writeFileSync(path.join(folder, 'truth.json'), JSON.stringify(truth));
}

/**
 * Variance of a frame's error tile by tile: the mean square of what it differs by from the reference, less the reference's
 * own, which its halves tell exactly.
 */
function tileErrors(frame: RenderedFrame, { width, height, beauty, half1, half2 }: RenderedFrame): number[] {
  const errors: number[] = [];
  for (let top = 0; top < height; top += TILE) {
    for (let left = 0; left < width; left += TILE) {
      let [sum, own, count] = [0, 0, 0];
      for (let y = top; y < Math.min(height, top + TILE); y++) {
        for (let x = left; x < Math.min(width, left + TILE); x++) {
          const pixel = (y * width + x) * 4;
          if (!(frame.beauty[pixel + 3]! > 0)) continue;
          let [error, half] = [0, 0];
          for (const [c, weight] of WEIGHTS.entries()) {
            error += weight * (frame.beauty[pixel + c]! - beauty[pixel + c]!);
            half += (weight * (half1[pixel + c]! - half2[pixel + c]!)) / 2;
          }
          sum += error ** 2;
          own += half ** 2;
          count++;
        }
      }
      errors.push(count === 0 ? NaN : Math.max(0, (sum - own) / count));
    }
  }
  return errors;
}
