import path from 'node:path';
import { isMainThread, Worker, workerData } from 'node:worker_threads';
import {
  differenceAlong,
  further,
  seenAt,
  steadyFrame,
  trailAfter,
  trailBefore,
  type FrameToSteady,
  type PictureToDenoise,
  type Vectors,
} from '@mint-tally/core';
import { renderFrame, studyNames, type StudyName } from '@mint-tally/standin-farm';
import { featureBrief, FIRST } from '../feature-passes.ts';
import { denoiseInto, pictureAt, psnr, signed } from './held-against.ts';
import { tellLights } from './light-gains.ts';
import { FRAMES, MIDDLE, REFERENCE, renderShots, settingsOf, shotFolder, shotSizes, type ShotSize } from './render-shots.ts';

/**
 * Holds `./mint denoise` against renders of very many samples: `bench-denoise.js FOLDER [large|fast|lights] [STUDY …]`; of what
 * goes fast the errors are told where it has just been, and of lights what they gain by their own weights and by the beauty's. What is rendered stays in the folder, so that a second run only filters.
 */
async function main([top, ...names]: readonly string[]): Promise<void> {
  if (!top) throw new Error('Say the folder for the rendered frames: bench-denoise.js FOLDER [large|fast|lights] [STUDY …]');
  const size = (Object.keys(shotSizes) as ShotSize[]).find((one) => one === names[0]) ?? 'small';
  const wanted = names.filter((name) => name !== size);
  const studies = studyNames.filter((name) => (wanted.length === 0 ? name !== 'indirect' : wanted.includes(name)));
  const waiting = [...studies];
  const renderNext = async (): Promise<void> => {
    for (let study = waiting.shift(); study; study = waiting.shift())
      await new Promise((resolve, reject) =>
        new Worker(new URL(import.meta.url), { workerData: { top, size, study } }).once('exit', resolve).once('error', reject),
      );
  };
  await Promise.all([renderNext(), renderNext()]);
  if (size === 'fast') return tellGhosts(top, studies);
  if (size === 'lights') return tellLights(top, studies);
  console.log(
    '| study, samples | PSNR, dB | one frame | five frames | mean of five along the vectors | as long on samples | error in time, of before | noise in time, of before |',
  );
  console.log('| --- | --- | --- | --- | --- | --- | --- | --- |');
  for (const study of studies) for (const samples of shotSizes[size].counts) console.log(await compare(top, size, study, samples));
}

/**
 * Of every study how large errors are where a neighbour shows something else, which would leave a ghost, and elsewhere: by
 * itself, and with its neighbours. Without a ghost the neighbours make no error larger than the noise that is left alone.
 */
async function tellGhosts(top: string, studies: readonly StudyName[]): Promise<void> {
  console.log(
    '| study, 16 samples | pixels with something else before or after | error there, one frame | five frames | times | elsewhere, one frame | five frames |',
  );
  console.log('| --- | --- | --- | --- | --- | --- | --- |');
  for (const study of studies) {
    const folder = shotFolder(top, 'fast', study, 16);
    const truth = pictureAt(shotFolder(top, 'fast', study, REFERENCE), MIDDLE);
    const own = [0, 1, 2, 3, 4].map((place) => pictureAt(folder, place));
    const isElse = somethingElse(own);
    const share = isElse.reduce((sum, one) => sum + one, 0) / isElse.length;
    const errors = [(await denoised(folder, 1)).pictures[MIDDLE]!, (await denoised(folder, 5)).pictures[MIDDLE]!].map((picture) => errorOf(picture, truth));
    const within = (error: Float32Array, wanted: number) => {
      const chosen = error.filter((_, i) => isElse[i] === wanted);
      return Math.sqrt(chosen.reduce((sum, value) => sum + value * value, 0) / chosen.length);
    };
    const [there, elsewhere] = [errors.map((error) => within(error, 1)), errors.map((error) => within(error, 0))];
    const say = (value: number) => value.toPrecision(3);
    console.log(
      `| ${study} | ${(100 * share).toFixed(0)} % | ${there.map(say).join(' | ')} | ${(there[1]! / there[0]!).toFixed(2)} | ${elsewhere.map(say).join(' | ')} |`,
    );
  }
}

/** 1 where one of the frames beside the middle one shows another surface. */
function somethingElse(own: readonly PictureToDenoise[]): Uint8Array {
  const middle = own[MIDDLE]!;
  const trails = [trailBefore(middle.motion!, middle), trailAfter(middle.motion!, own[MIDDLE + 1]!.motion!, middle)];
  const seen = [own[MIDDLE - 1]!, own[MIDDLE + 1]!].map((other, i) => seenAt(middle, other, trails[i]!));
  return Uint8Array.from(seen[0]!, (_, i) => (seen.some((places) => places[i]! < 0) ? 1 : 0));
}

/** A line of the table. */
async function compare(top: string, size: ShotSize, study: StudyName, samples: number): Promise<string> {
  const folder = shotFolder(top, size, study, samples);
  const reference = (place: number) => pictureAt(shotFolder(top, size, study, REFERENCE), place);
  const truth = reference(MIDDLE);
  const own = [0, 1, 2, 3, 4].map((place) => pictureAt(folder, place));
  const before = psnr(own[MIDDLE]!, truth);
  const gain = (picture: Pick<PictureToDenoise, 'colours'>) => signed(psnr(picture, truth) - before);
  const [alone, steadied] = [await denoised(folder, 1), await denoised(folder, 5)];
  const began = performance.now();
  renderFrame({ ...settingsOf(study, size, MIDDLE), samples: 1, seed: 5 });
  const aSample = (performance.now() - began) / 1000;
  const instead = 10 * Math.log10((samples + alone.seconds / aSample) / samples);
  const inTime = (pictures: readonly Pick<PictureToDenoise, 'colours'>[]) =>
    differenceAlong({ ...own[MIDDLE]!, left: errorOf(pictures[1]!, truth) }, { ...own[MIDDLE - 1]!, left: errorOf(pictures[0]!, reference(MIDDLE - 1)) })!;
  const timely = inTime([steadied.pictures[MIDDLE - 1]!, steadied.pictures[MIDDLE]!]) / inTime([own[MIDDLE - 1]!, own[MIDDLE]!]);
  return `| ${study}, ${samples} | ${before.toFixed(1)} | ${gain(alone.pictures[MIDDLE]!)} | ${gain(steadied.pictures[MIDDLE]!)} | ${gain(meanOf(own))} | ${signed(instead)} | ${timely.toFixed(2)} | ${steadied.inTime.toFixed(2)} |`;
}

/** What `./mint denoise` makes of a shot, the seconds of its middle frame, and what it says is left of that one's noise in time. */
async function denoised(folder: string, frames: 1 | 5): Promise<{ pictures: PictureToDenoise[]; seconds: number; inTime: number }> {
  const out = path.join(folder, `denoised-${frames}`);
  const told = await denoiseInto<Told>(folder, featureBrief(FRAMES), 'beauty', out, '--frames', String(frames));
  const middle = told.frames[MIDDLE]!;
  return {
    pictures: told.frames.map(({ frame }) => pictureAt(folder, frame - FIRST, path.join(out, `beauty.${frame}.exr`))),
    seconds: middle.seconds,
    inTime: middle.temporalAfter / middle.temporalBefore,
  };
}

interface Told {
  readonly frames: readonly { readonly frame: number; readonly seconds: number; readonly temporalBefore: number; readonly temporalAfter: number }[];
}

/** The middle frame averaged with the four around it where they show the same surface, whatever they look like. */
function meanOf(pictures: readonly PictureToDenoise[]): Pick<PictureToDenoise, 'colours'> {
  const frames = pictures.map((picture): Held => {
    const count = picture.width * picture.height;
    return {
      ...picture,
      motion: picture.motion!,
      lights: [],
      left: new Float32Array(count),
      leftAround: new Float32Array(count),
      deviation: new Float32Array(count).fill(1e3),
    };
  });
  const [a, b, own, d, e] = frames as [Held, Held, Held, Held, Held];
  const [before, after] = [trailBefore(own.motion, own), trailAfter(own.motion, d.motion, own)];
  return steadyFrame(own, [
    { frame: b, trail: before },
    { frame: a, trail: further(before, trailBefore(b.motion, own), own) },
    { frame: d, trail: after },
    { frame: e, trail: further(after, trailAfter(d.motion, e.motion, own), own) },
  ]);
}

type Held = FrameToSteady & { readonly motion: Vectors };

const errorOf = ({ colours }: Pick<PictureToDenoise, 'colours'>, truth: PictureToDenoise) => colours[1]!.map((value, i) => value - truth.colours[1]![i]!);

if (!isMainThread) {
  const { top, size, study } = workerData as { top: string; size: ShotSize; study: StudyName };
  renderShots(top, size, study);
} else await main(process.argv.slice(2));
