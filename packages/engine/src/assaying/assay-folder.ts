import os from 'node:os';
import {
  findAssayTroubles,
  MintError,
  noiseAlongShot,
  samplingOf,
  sayConvention,
  USUAL_CONVENTION,
  type AssayedFrame,
  type Brief,
  type Finding,
  type FoundConvention,
  type FrameFigures,
  type FrameNoise,
  type KeptAssay,
  type MeasuredFrame,
  type Order,
  type PassFigures,
  type Sampling,
} from '@mint-tally/core';
import { countFolder } from '../counting/count-folder.ts';
import { conventionOf } from './find-vectors.ts';
import type { StretchResult } from './measure-stretch.ts';
import { changesOf, looksAt, type Looks, type LooksWanted } from './looks.ts';
import { planAssay, type AssayPlan } from './plan.ts';
import { measureOnThreads } from './threads.ts';

/** Raised when there is nothing whose noise could be measured. */
export class NothingToAssayError extends MintError {
  constructor(folder: string, why: string) {
    super('nothing-to-assay', why, { subject: folder, remedy: 'Give a pass the role beauty or light in the brief.' });
  }
}

export interface Assay {
  readonly frames: readonly AssayedFrame[];
  readonly findings: readonly Finding[];
  /** What the motion vectors mean; null without a motion pass. */
  readonly convention: FoundConvention | null;
  /** Whether any of the files is another one by now; null where nobody counts along. */
  readonly hasChanged: (() => boolean) | null;
}

/** What holds for all figures of an assay. */
export function ofAllFrames({ frames, convention }: Pick<Assay, 'frames' | 'convention'>): Pick<KeptAssay, 'heldSeeds' | 'wideFilter' | 'vectors'> {
  return {
    heldSeeds: frames.some(({ heldSeeds }) => heldSeeds),
    wideFilter: frames.some(({ wideFilter }) => wideFilter),
    vectors: convention && { says: sayConvention(convention.convention), residual: convention.residual, isSaid: convention.isSaid },
  };
}

export interface AssayOptions {
  /** Real path. */
  readonly folder: string;
  readonly brief: Brief;
  /** Milliseconds since 1970. */
  readonly now: number;
  readonly threads?: number;
  readonly onProgress?: (done: number, total: number) => void;
  /** Asked between frames; when it says so, nothing further is begun. */
  readonly stopped?: () => boolean;
  /** Whether even few frames are measured in a thread. */
  readonly apart?: boolean;
  /** Where a count is asked for together with the assay: its looks at the files that are read. */
  readonly looks?: LooksWanted | null;
}

/** Measures a folder's passes; null when it was stopped. @throws NothingToAssayError, FileAccessError */
export async function assayFolder(options: AssayOptions): Promise<Assay | null> {
  const { folder, brief, now, threads = os.availableParallelism(), onProgress, stopped = () => false, apart = false, looks = null } = options;
  const counted = await countFolder({ folder, brief, level: 'names', pool: null, proxyFolder: null, now });
  const { order } = counted;
  const plan = planAssay(order, counted.table!);
  if (plan.passes.length === 0) throw new NothingToAssayError(folder, 'The brief orders no pass of role beauty or light.');
  const hasChanged = looks && changesOf(folder, plan);
  const wanted = looks && { ...looksAt(folder, order, counted.table!, looks), ...looks };
  const measured = await measurePlan({ folder, brief, plan, step: stepOf(order), threads, apart, onProgress, stopped, looks: wanted });
  if (!measured) return null;
  const { frames, beside, convention } = measured;
  return { frames, findings: findAssayTroubles(order, frames, beside), convention, hasChanged };
}

/** What is measured, and how. */
export interface MeasurePlan extends Pick<AssayOptions, 'folder' | 'brief' | 'onProgress'> {
  readonly plan: AssayPlan;
  /** Between neighbours that stand together in the order, in frames. */
  readonly step: number;
  readonly threads: number;
  readonly apart: boolean;
  readonly stopped: () => boolean;
  readonly looks: (Looks & Pick<LooksWanted, 'onInspected' | 'onPictureLost'>) | null;
}

/** Measures the frames of a plan; null when it was stopped. */
export async function measurePlan({ folder, brief, plan, step, threads, apart, onProgress, stopped, looks }: MeasurePlan) {
  const convention = conventionOf(folder, plan, brief);
  const results: StretchResult[] = [];
  const beside: PassFigures[] = [];
  const task = {
    ...{ folder, frames: plan.frames, from: 0, to: plan.frames.length, passes: plan.passes, step },
    convention: convention?.convention ?? USUAL_CONVENTION,
    looks: looks && { proxyFolder: looks.proxyFolder, files: looks.files },
  };
  await measureOnThreads(task, {
    threads,
    apart,
    isStopped: stopped,
    onDone: (done) => onProgress?.(done, plan.frames.length),
    async onResults(measured) {
      results.push(...measured.colours);
      beside.push(...measured.beside);
      for (const { file, pictureProblem } of measured.looks) {
        if (pictureProblem !== null) looks?.onPictureLost?.(pictureProblem);
        await looks?.onInspected(file);
      }
    },
  });
  if (stopped()) return null;
  const samplingFor = samplingsOf(plan, results);
  const frames = plan.passes.flatMap((pass) => alongPass(pass, plan, results, samplingFor(pass)));
  beside.sort((a, b) => a.frame - b.frame);
  return { frames, beside, convention };
}

/** Frames from one ordered frame to the next. */
export function stepOf({ frames }: Order): number {
  const numbers = [...frames];
  return numbers.reduce((least, frame, i) => (i === 0 ? least : Math.min(least, frame - numbers[i - 1]!)), Infinity);
}

/** The frames of a pass that are of one size: those of others are measured, but tell nothing of each other's tiles. */
function bySize(pass: string, results: readonly StretchResult[]): StretchResult[][] {
  const own = results.filter((result) => result.pass === pass).sort((a, b) => a.frame - b.frame);
  const sizeOf = ({ figures: { grid } }: StretchResult) => `${grid.width} ${grid.height}`;
  return [...new Set(own.map(sizeOf))].map((size) => own.filter((result) => sizeOf(result) === size));
}

const hasFeatures = (frames: readonly StretchResult[]) => frames.some((one) => one.hasFeatures);

function measuredFrames(frames: readonly StretchResult[]): MeasuredFrame[] {
  const places = new Map(frames.map(({ frame }, i) => [frame, i]));
  return frames.map(({ figures, neighbours, exact }) => ({ figures, exact, neighbours: neighbours.flatMap((frame) => places.get(frame) ?? []) }));
}

/** How the passes of a picture were sampled: as the whole of it shows; without a beauty most of them say whether seeds are held, and each for itself how rough its noise is. */
function samplingsOf({ frames, passes }: AssayPlan, results: readonly StretchResult[]): (pass: string) => Sampling | undefined {
  const byItself = (pass: string) => {
    const [same] = bySize(pass, results);
    return same && samplingOf(measuredFrames(same));
  };
  const whole = frames.find((plan) => plan.whole !== null)?.whole;
  const ofWhole = whole ? byItself(whole) : undefined;
  if (ofWhole) return () => ofWhole;
  const ofPasses = new Map(passes.map((pass) => [pass, byItself(pass)]));
  const said = [...ofPasses.values()].flatMap((one) => one ?? []);
  const heldSeeds = 2 * said.filter((one) => one.heldSeeds).length > said.length;
  return (pass) => {
    const own = ofPasses.get(pass);
    return own && { ...own, heldSeeds };
  };
}

function alongPass(pass: string, plan: AssayPlan, results: readonly StretchResult[], sampling: Sampling | undefined): AssayedFrame[] {
  return bySize(pass, results)
    .flatMap((same) => {
      const shot = noiseAlongShot(measuredFrames(same), hasFeatures(same), sampling);
      return same.map(({ frame, figures, sum, host, samples, seconds, bytes, banded }, i): AssayedFrame => {
        const file = plan.frames.find((one) => one.frame === frame)!.colours[pass]!.path;
        const { heldSeeds, wideFilter, joinedPixels } = shot;
        return {
          pass,
          frame,
          file,
          ...shot.frames[i]!,
          heldSeeds,
          wideFilter,
          joinedPixels,
          fireflies: figures.fireflies.length,
          fireflyPlaces: figures.fireflies,
          sum,
          host,
          samples,
          seconds,
          bytes,
          banded,
          grid: figures.grid,
          means: figures.mean,
          covered: figures.pixels.reduce((sum, count) => sum + count, 0) / (figures.grid.width * figures.grid.height),
          meanLuminance: figures.meanLuminance,
          luminanceError: errorOfMean(figures, shot.frames[i]!, joinedPixels),
        };
      });
    })
    .sort((a, b) => a.frame - b.frame);
}

/** The standard deviation of a picture's mean luminance that its noise makes. */
function errorOfMean({ pixels }: FrameFigures, { tiles, noise }: FrameNoise, joinedPixels: number): number | null {
  const all = pixels.reduce((sum, count) => sum + count, 0);
  if (noise === null || all === 0) return null;
  const squares = tiles.reduce((sum, sigma, tile) => sum + (Number.isFinite(sigma) ? sigma ** 2 * pixels[tile]! : 0), 0);
  return Math.sqrt(squares * joinedPixels) / all;
}
