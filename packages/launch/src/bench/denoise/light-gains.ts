import path from 'node:path';
import { greyOf, sumOfLights, type PictureToDenoise } from '@mint-tally/core';
import type { StudyName } from '@mint-tally/standin-farm';
import { featureBrief, FIRST, LIGHT_PASSES, passFile } from '../feature-passes.ts';
import { denoiseInto, pictureAt, psnr, signed } from './held-against.ts';
import { FRAMES, MIDDLE, REFERENCE, shotFolder, shotSizes } from './render-shots.ts';

/** A light as it is rendered, and as it is done in both ways. */
interface HeldLight {
  readonly light: string;
  readonly before: number;
  readonly truth: PictureToDenoise;
  readonly alone: PictureToDenoise;
  readonly together: PictureToDenoise;
}

/** Lights that hold less noise than this, as PSNR, are hardly there. */
const HARDLY = 70;
const FILE = `${FIRST + MIDDLE}.exr`;

/**
 * Of every study what each light gains over five frames: by weights of its own, and by those of the beauty when it goes along
 * with it; and in how many pixels the lights do not sum to the beauty that is done then.
 */
export async function tellLights(top: string, studies: readonly StudyName[]): Promise<void> {
  console.log(
    '| study, samples | light | PSNR | by its own weights | along with the beauty | lights that do not sum to it, by their own weights | along with it |',
  );
  console.log('| --- | --- | --- | --- | --- | --- | --- |');
  const brief = featureBrief(FRAMES, LIGHT_PASSES);
  for (const study of studies) {
    for (const samples of shotSizes.lights.counts) {
      const folder = shotFolder(top, 'lights', study, samples);
      const truths = shotFolder(top, 'lights', study, REFERENCE);
      const along = path.join(folder, 'along');
      await denoiseInto(folder, brief, 'beauty', along, '--with-lights');
      const beauty = pictureAt(folder, MIDDLE, path.join(along, `beauty.${FILE}`));
      const lights: HeldLight[] = [];
      for (const light of LIGHT_PASSES) {
        const truth = pictureAt(truths, MIDDLE, passFile(truths, light, MIDDLE));
        const before = psnr(pictureAt(folder, MIDDLE, passFile(folder, light, MIDDLE)), truth);
        const own = path.join(folder, `own-${light}`);
        await denoiseInto(folder, brief, light, own);
        const [alone, together] = [own, path.join(along, light)].map((out) => pictureAt(folder, MIDDLE, path.join(out, `${light}.${FILE}`)));
        lights.push({ light, before, truth, alone: alone!, together: together! });
      }
      const offSum = (which: 'alone' | 'together') => {
        const size = { width: beauty.width, height: beauty.height };
        const sum = sumOfLights(
          { ...size, values: beauty.luminance },
          lights.map((one) => ({ ...size, pass: one.light, values: greyOf(one[which].colours) })),
        );
        return `${(100 * sum!.share).toFixed(1)} %`;
      };
      for (const { light, before, truth, alone, together } of lights) {
        if (!(before < HARDLY)) continue;
        const gains = [alone, together].map((picture) => signed(psnr(picture, truth) - before));
        console.log(`| ${study}, ${samples} | ${light} | ${before.toFixed(1)} | ${gains.join(' | ')} | ${offSum('alone')} | ${offSum('together')} |`);
      }
    }
  }
}
