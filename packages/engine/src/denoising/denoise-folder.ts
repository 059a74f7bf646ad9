import os from 'node:os';
import path from 'node:path';
import {
  MintError,
  parseFrameRange,
  refuseData,
  sayDenoising,
  USUAL_CONVENTION,
  type AssayedFrame,
  type Brief,
  type FrameCount,
  type FrameSet,
} from '@mint-tally/core';
import { FileAccessError } from '@mint-tally/disk';
import { measurePlan, stepOf } from '../assaying/assay-folder.ts';
import { planAssay, type AssayPlan, type FramePlan } from '../assaying/plan.ts';
import { countFolder } from '../counting/count-folder.ts';
import type { DenoisedFrame } from './denoise-stretch.ts';
import { denoiseOnThreads } from './threads.ts';

export interface DenoiseOptions {
  /** Real path. */
  readonly folder: string;
  readonly brief: Brief;
  readonly pass: string;
  /** Real path of a folder below which is written, and where below it; made where it is not there. */
  readonly limit: string;
  readonly out: string;
  /** 1 is middle. */
  readonly strength: number;
  readonly frames: FrameCount;
  /** Frames that are wanted; all that are ordered where it is null. */
  readonly range: FrameSet | null;
  /** Milliseconds since 1970. */
  readonly now: number;
  readonly threads?: number;
  readonly onProgress?: (phase: 'measuring' | 'denoising', done: number, total: number) => void;
  /** Asked between stretches; when it says so, nothing further is begun. */
  readonly stopped?: () => boolean;
}

/** What became of a frame, and what was measured of it before. */
export interface DenoisedWith extends DenoisedFrame {
  readonly noiseBefore: number | null;
  readonly temporalBefore: number | null;
}

export interface Denoising {
  readonly frames: readonly DenoisedWith[];
  /** Ordered frames that no file fills. */
  readonly missing: readonly number[];
  /** What would have helped, and is not there. */
  readonly lacking: readonly string[];
}

/**
 * Denoises a pass's frames into another folder; null when it was stopped.
 *
 * @throws NotForDenoisingError, FileAccessError, NotRewrittenError, MintError where the brief has no such pass
 */
export async function denoiseFolder(options: DenoiseOptions): Promise<Denoising | null> {
  const { folder, brief, pass, range, threads = os.availableParallelism(), onProgress, stopped = () => false } = options;
  const ordered = brief.passes.find(({ name }) => name === pass);
  if (!ordered)
    throw new MintError('no-such-pass', `The brief orders no pass ${pass}.`, { subject: pass, remedy: `It orders ${brief.passes.map(({ name }) => name).join(', ')}.` });
  refuseData(pass, ordered.role);
  const counted = await countFolder({ folder, brief, level: 'names', pool: null, proxyFolder: null, now: options.now });
  const whole = planAssay(counted.order, counted.table!);
  const wanted = range ? range.intersection(counted.order.frames) : counted.order.frames;
  if ([...wanted].length === 0) throw new MintError('no-frames', 'None of the frames that were named is ordered.', { remedy: 'Name frames of the brief.' });
  const plan = ofPass(whole, pass);
  const places = plan.frames.flatMap(({ frame }, at) => (wanted.has(frame) ? [at] : []));
  const there = new Set(places.map((at) => plan.frames[at]!.frame));
  const missing = [...wanted].filter((frame) => !there.has(frame));
  if (places.length === 0) throw new MintError('no-frames', `No frame of ${pass} is there.`, { subject: folder, remedy: 'Look at what the count says of it.' });
  keepOriginals(options, plan, places);
  const reach = (options.frames - 1) / 2;
  const step = stepOf(counted.order);
  // Noise is measured where it is needed, and beside it.
  const [first, end] = [Math.max(0, places[0]! - reach - 1), Math.min(plan.frames.length, places.at(-1)! + reach + 2)];
  const frames = plan.frames.slice(first, end);
  const measured = await measurePlan({
    folder,
    brief,
    plan: { passes: [pass], frames },
    step,
    threads,
    stopped,
    onProgress: (done, total) => onProgress?.('measuring', done, total),
  });
  if (!measured) return null;
  const noise = new Map(measured.frames.map((frame) => [frame.frame, frame]));
  const done = await denoiseOnThreads(
    {
      folder,
      frames,
      sigmas: frames.map(({ frame }) => noise.get(frame)?.tiles ?? null),
      pass,
      convention: measured.convention?.convention ?? USUAL_CONVENTION,
      strength: options.strength,
      step,
      cuts: [...(brief.cuts ? parseFrameRange(brief.cuts) : [])],
      limit: options.limit,
      out: options.out,
      reach,
      notes: { denoised: sayDenoising(options.strength, options.frames), denoisedFrom: pass },
    },
    places.map((at) => at - first),
    threads,
    (count) => onProgress?.('denoising', count, places.length),
    stopped,
  );
  return done && { frames: done.map((frame) => withNoise(frame, noise.get(frame.frame))), missing, lacking: lackingOf(frames) };
}

function withNoise(frame: DenoisedFrame, before: AssayedFrame | undefined): DenoisedWith {
  return { ...frame, noiseBefore: before?.noise ?? null, temporalBefore: before?.temporalNoise ?? null };
}

/** The plan of one pass, without what is measured beside it. */
function ofPass({ frames }: AssayPlan, pass: string): AssayPlan {
  return {
    passes: [pass],
    frames: frames.flatMap((plan): FramePlan[] => {
      const file = plan.colours[pass];
      return file ? [{ ...plan, colours: { [pass]: file }, whole: plan.whole === pass ? pass : null, beside: {}, lights: [] }] : [];
    }),
  };
}

/** Nothing is written where an original lies. @throws FileAccessError */
function keepOriginals({ folder, pass, limit, out }: DenoiseOptions, { frames }: AssayPlan, places: readonly number[]): void {
  const names = new Map<string, string>();
  for (const at of places) {
    const source = frames[at]!.colours[pass]!.path;
    const name = path.posix.basename(source);
    const target = path.join(limit, out, name);
    if (target === path.join(folder, source)) throw new FileAccessError('file-in-the-way', `${target} is the original.`, name);
    if (names.has(name)) throw new FileAccessError('file-in-the-way', `${names.get(name)!} and ${source} would both be ${name}.`, name);
    names.set(name, source);
  }
}

const HELPS = { albedo: 'texture', normal: 'shapes', depth: 'what lies before what', motion: 'where things move: nothing is steadied' } as const;

/** Passes that would help, and what they would tell. */
function lackingOf(frames: readonly FramePlan[]): string[] {
  return (Object.keys(HELPS) as (keyof typeof HELPS)[]).filter((role) => frames.every(({ features }) => features[role] === null)).map((role) => `${role} (${HELPS[role]})`);
}
