import os from 'node:os';
import path from 'node:path';
import {
  FrameFileError,
  FrameSet,
  MintError,
  NotRewrittenError,
  parseFrameRange,
  recogniseFormat,
  refuseData,
  sayDenoising,
  USUAL_CONVENTION,
  type AssayedFrame,
  type Brief,
  type FrameCount,
} from '@mint-tally/core';
import { measurePlan, stepOf } from '../assaying/assay-folder.ts';
import { planAssay, type AssayPlan, type FramePlan } from '../assaying/plan.ts';
import { countFolder } from '../counting/count-folder.ts';
import { withFile } from '../inspection/inspect-file.ts';
import { framesThere, SETTINGS_NOTE, type WantedFrame } from './already-there.ts';
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
  /** Frames that were there already, by the same settings of the same files. */
  readonly kept: FrameSet;
  /** Ordered frames that no file fills. */
  readonly missing: FrameSet;
  /** What would have helped, and is not there. */
  readonly lacking: readonly string[];
}

/**
 * Denoises a pass's frames into another folder; null when it was stopped.
 *
 * @throws NotForDenoisingError, FileAccessError, NotRewrittenError, MintError where the brief has no such pass, or other files are in the way
 */
export async function denoiseFolder(options: DenoiseOptions): Promise<Denoising | null> {
  const { folder, brief, pass, range, threads = os.availableParallelism(), onProgress, stopped = () => false } = options;
  const ordered = brief.passes.find(({ name }) => name === pass);
  if (!ordered)
    throw new MintError('no-such-pass', `The brief orders no pass ${pass}.`, {
      subject: pass,
      remedy: `It orders ${brief.passes.map(({ name }) => name).join(', ')}.`,
    });
  refuseData(pass, ordered.role);
  const counted = await countFolder({ folder, brief, level: 'names', pool: null, proxyFolder: null, now: options.now });
  const whole = planAssay(counted.order, counted.table!);
  const wanted = range ? range.intersection(counted.order.frames) : counted.order.frames;
  if ([...wanted].length === 0) throw new MintError('no-frames', 'None of the frames that were named is ordered.', { remedy: 'Name frames of the brief.' });
  const plan = ofPass(whole, pass);
  const places = plan.frames.flatMap(({ frame }, at) => (wanted.has(frame) ? [at] : []));
  const missing = wanted.difference(FrameSet.of(places.map((at) => plan.frames[at]!.frame)));
  if (places.length === 0) throw new MintError('no-frames', `No frame of ${pass} is there.`, { subject: folder, remedy: 'Look at what the count says of it.' });
  refuseOtherFormats(folder, plan.frames[places[0]!]!.colours[pass]!.path);
  const settings = sayDenoising(options.strength, options.frames);
  const there = framesThere(
    folder,
    places.map((at) => wantedAt(plan.frames[at]!, options)),
    settings,
  );
  const left = places.filter((at) => !there.has(plan.frames[at]!.frame));
  if (left.length === 0) return { frames: [], kept: FrameSet.of(there), missing, lacking: lackingOf(plan.frames) };
  const reach = (options.frames - 1) / 2;
  const step = stepOf(counted.order);
  // Noise is measured of all that were asked for, and beside them: what was stopped comes out as if it had not been.
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
      notes: { [SETTINGS_NOTE]: settings, denoisedFrom: pass },
    },
    left.map((at) => at - first),
    threads,
    (count) => onProgress?.('denoising', there.size + count, places.length),
    stopped,
  );
  return done && { frames: done.map((frame) => withNoise(frame, noise.get(frame.frame))), kept: FrameSet.of(there), missing, lacking: lackingOf(frames) };
}

/** Told before anything is measured. A file that cannot be read is told with its frame. @throws NotRewrittenError */
function refuseOtherFormats(folder: string, file: string): void {
  try {
    const { format } = withFile(folder, file, (source) => recogniseFormat(source, file).open(source).header);
    if (format !== 'exr') throw new NotRewrittenError(`${file} is ${format.toUpperCase()}.`);
  } catch (thrown) {
    if (!(thrown instanceof FrameFileError)) throw thrown;
  }
}

function wantedAt({ frame, colours }: FramePlan, { pass, limit, out }: DenoiseOptions): WantedFrame {
  const source = colours[pass]!.path;
  return { frame, source, target: path.join(limit, out, path.posix.basename(source)) };
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

const HELPS = { albedo: 'texture', normal: 'shapes', depth: 'what lies before what', motion: 'where things move: nothing is steadied' } as const;

/** Passes that would help, and what they would tell. */
function lackingOf(frames: readonly FramePlan[]): string[] {
  return (Object.keys(HELPS) as (keyof typeof HELPS)[])
    .filter((role) => frames.every(({ features }) => features[role] === null))
    .map((role) => `${role} (${HELPS[role]})`);
}
