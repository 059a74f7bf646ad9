import { execFile } from 'node:child_process';
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { promisify } from 'node:util';
import { Worker, isMainThread, workerData } from 'node:worker_threads';
import { fitNoise, luminanceOf, measureTestRenders, memorySource, recogniseFormat, samplesForNoise } from '@mint-tally/core';
import { codecTools, projectFolder } from '@mint-tally/engine';
import { studyNames, type StudyName } from '@mint-tally/standin-farm';
import { faultsOf, faultyBrief, faultySizes, faultyViews, renderFaulty, type FaultySize } from './faults.ts';
import { featureBrief } from '../feature-passes.ts';
import { beautyPath, moments, renderStudy, studyFolder, studySizes, type Moment, type StudySize, type Truth } from './render-study.ts';

/**
 * Holds the assay's noise against renders whose error is known: `bench-truth.js FOLDER [middle|large|scattered|lens|shutter|filters] [second|third] [STUDY …]`,
 * the words telling the size of the pictures and the moment. What is rendered stays in the folder, so that a second run only
 * measures. `bench-truth.js FOLDER faults [middle] [FINDING …]` makes every fault in several views instead, or those
 * that such findings tell, and counts what is found.
 */

async function main([top, ...names]: readonly string[]): Promise<void> {
  if (!top) throw new Error('Say the folder for the rendered frames: bench-truth.js FOLDER [STUDY …]');
  if (names.includes('faults')) return countFindings(top, namedIn(faultySizes, names) ?? 'small', names);
  const size = namedIn(studySizes, names) ?? 'small';
  const moment = namedIn(moments, names) ?? 'first';
  const { counts, frames, filters } = studySizes[size];
  const wanted = names.filter((name) => name !== size && name !== moment);
  const studies = studyNames.filter((name) => wanted.length === 0 || wanted.includes(name));
  const waiting = [...studies];
  const renderNext = async (): Promise<void> => {
    for (let study = waiting.shift(); study; study = waiting.shift()) {
      await new Promise((resolve, reject) => {
        new Worker(new URL(import.meta.url), { workerData: { top, study, size, moment } }).once('exit', resolve).once('error', reject);
      });
    }
  };
  await Promise.all([renderNext(), renderNext()]);
  const all: Compared[] = [];
  for (const study of studies) {
    for (const [samples, filter] of counts.flatMap((count) => filters.map((one) => [count, one] as const))) {
      const compared = await measure(studyFolder(top, study, samples, filter), frames);
      all.push(...compared);
      const column = (show: (frame: Compared) => string) => compared.map(show).join(' ');
      const ranks = column((frame) => frame.ranks.toFixed(2).replace('0.', '.'));
      const behind = filter === 0 ? '' : `, filter ${filter}`;
      console.log(`| ${study}, ${samples}${behind} | ${column(({ noise }) => percent(noise))} | ${column(({ temporal }) => percent(temporal))} | ${ranks} |`);
    }
  }
  for (const figure of ['noise', 'temporal'] as const) {
    const errors = all.map((one) => Math.abs(one[figure])).sort((a, b) => a - b);
    console.log(`${figure}: median ${percent(errors[errors.length >> 1]!)} %, worst ${percent(errors.at(-1)!)} %`);
  }
  const ranks = all.map((one) => one.ranks).sort((a, b) => a - b);
  console.log(`ranks: median ${ranks[ranks.length >> 1]!.toFixed(3)}, least ${ranks[0]!.toFixed(3)}`);
  // Three test renders and what they foretell.
  if (counts.length < 4) return;
  const predicted = studies.map((study) => predictSamples(top, study, counts));
  studies.forEach((study, i) => console.log(`| ${study} | ${predicted[i]!.map(percent).join(' ')} |`));
  const off = predicted
    .flat()
    .map(Math.abs)
    .sort((a, b) => a - b);
  console.log(`samples: median ${percent(off[off.length >> 1]!)} %, worst ${percent(off.at(-1)!)} %`);
}

/** The first of the names that a list has. */
const namedIn = <Name extends string>(list: Readonly<Record<Name, unknown>>, names: readonly string[]): Name | undefined =>
  (Object.keys(list) as Name[]).find((name) => names.includes(name));

/** Half of the last place of a half float, as a share. */
const ROUNDED = 2 ** -11;

const percent = (share: number) => (share * 100).toFixed(1);

/** A frame's figures as shares of what is true, less one, and how well its tiles are ranked. */
interface Compared {
  readonly noise: number;
  readonly temporal: number;
  readonly ranks: number;
}

/** What a command prints of a folder with `--json`. */
async function printed<What>(command: 'assay' | 'check', folder: string, order: object, ...options: readonly string[]): Promise<What> {
  const brief = `${folder}.json`;
  writeFileSync(brief, JSON.stringify(order));
  const file = path.join(projectFolder(), 'build', 'services', `${command}.js`);
  const run = promisify(execFile)(process.execPath, [file, folder, '--brief', brief, '--json', ...options], { maxBuffer: 1 << 28 });
  // A blocker is told by the exit status as well.
  const { stdout } = await run.catch((error: unknown) => {
    if (error instanceof Error && 'stdout' in error && typeof error.stdout === 'string' && error.stdout !== '') return { stdout: error.stdout };
    throw error;
  });
  return JSON.parse(stdout) as What;
}

/** What `./mint assay --json` prints of a folder. */
interface Assayed {
  readonly frames: readonly { noise: number; temporalNoise: number; meanLuminance: number; tiles: (number | null)[] }[];
  readonly heldSeeds: boolean;
  readonly wideFilter: boolean;
  readonly findings: readonly Said[];
}

interface Said {
  readonly code: string;
  readonly pass: string;
  readonly frames: string;
}

/** What count and assay find in a folder, and what is said of its noise. */
async function allSaidOf(folder: string, order: object): Promise<readonly Said[]> {
  const { findings, assay } = await printed<{ findings: readonly Said[]; assay: Assayed }>('check', folder, order, '--assay');
  const ofNoise = (['heldSeeds', 'wideFilter'] as const).flatMap((code) => (assay[code] ? [{ code, pass: '', frames: '' }] : []));
  return [...findings, ...assay.findings, ...ofNoise];
}

/** Makes every fault in every view, and tells in how many it was found, and what else. */
async function countFindings(top: string, size: FaultySize, names: readonly string[]): Promise<void> {
  const views = faultyViews.map((view) => ({ view, write: renderFaulty(view, size) }));
  const all = faultsOf(size);
  const named = all.filter(({ code }) => names.includes(code ?? 'none'));
  for (const fault of named.length > 0 ? named : all) {
    let hits = 0;
    const others: string[] = [];
    for (const { view, write } of views) {
      const folder = path.join(top, `fault-${view}`);
      rmSync(folder, { recursive: true, force: true });
      write(fault, folder);
      const said = await allSaidOf(folder, faultyBrief(fault));
      if (said.some(({ code }) => code === fault.code)) hits++;
      others.push(...said.filter(({ code }) => code !== fault.code).map(({ code, pass, frames }) => `${view} ${code} ${pass} ${frames}`));
    }
    console.log(`| ${fault.code ?? '–'} | ${fault.name} | ${fault.code ? `${hits} of ${views.length}` : '–'} | ${others.join('; ') || 'none'} |`);
  }
}

async function measure(folder: string, count: number): Promise<Compared[]> {
  const { frames } = await printed<Assayed>('assay', folder, featureBrief(count));
  const truth = readTruth(folder);
  const totals = truth.map((tiles) => meanOf(tiles.filter(Number.isFinite)));
  return frames.map(({ noise, temporalNoise, meanLuminance, tiles }, i) => {
    const beside = totals[i === 0 ? 1 : i - 1]!;
    // Tiles with nothing but what is rounded away in a half have no noise that could be ranked.
    const least = (meanLuminance * ROUNDED) ** 2;
    const measured = tiles.flatMap((value, tile) => (value !== null && truth[i]![tile]! > least ? [tile] : []));
    return {
      noise: noise / Math.sqrt(totals[i]!) - 1,
      temporal: temporalNoise / Math.sqrt((totals[i]! + beside) / 2) - 1,
      ranks: correlation(ranksOf(measured.map((tile) => tiles[tile]!)), ranksOf(measured.map((tile) => truth[i]![tile]!))),
    };
  });
}

/** What three test renders of each frame say of the samples that the noise of the last count takes: shares of that count, less one. */
function predictSamples(top: string, study: StudyName, counts: readonly number[]): number[] {
  const [last, tested] = [counts.at(-1)!, counts.slice(0, -1)];
  return readTruth(studyFolder(top, study, last)).map((tiles, i) => {
    const renders = tested.map((samples) => {
      const source = memorySource(readFileSync(beautyPath(top, study, samples, i)));
      const { frame } = recogniseFormat(source, 'frame.exr').open(source).decode(codecTools);
      return { samples, seconds: null, luminance: luminanceOf(frame!, null)! };
    });
    const fit = fitNoise(measureTestRenders(renders).tests)!;
    return samplesForNoise(fit, Math.sqrt(meanOf(tiles.filter(Number.isFinite))))! / last - 1;
  });
}

const readTruth = (folder: string) => JSON.parse(readFileSync(path.join(folder, 'truth.json'), 'utf8')) as Truth;

const meanOf = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;

function ranksOf(values: readonly number[]): number[] {
  const order = values.map((_, i) => i).sort((a, b) => values[a]! - values[b]!);
  const ranks: number[] = [];
  order.forEach((i, rank) => (ranks[i] = rank));
  return ranks;
}

function correlation(a: readonly number[], b: readonly number[]): number {
  const [meanA, meanB] = [meanOf(a), meanOf(b)];
  const product = (p: readonly number[], mp: number, q: readonly number[], mq: number) => p.reduce((sum, value, i) => sum + (value - mp) * (q[i]! - mq), 0);
  return product(a, meanA, b, meanB) / Math.sqrt(product(a, meanA, a, meanA) * product(b, meanB, b, meanB));
}

if (!isMainThread) {
  const { top, study, size, moment } = workerData as { top: string; study: StudyName; size: StudySize; moment: Moment };
  renderStudy(top, study, size, moment);
} else await main(process.argv.slice(2));
