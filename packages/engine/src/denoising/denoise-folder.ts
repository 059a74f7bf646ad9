import os from 'node:os';
import path from 'node:path';
import {
  DENOISED_NOTE,
  FrameFileError,
  FrameSet,
  MintError,
  NotRewrittenError,
  parseFrameRange,
  recogniseFormat,
  refuseData,
  refuseOthersBeside,
  sayDenoising,
  USUAL_CONVENTION,
  type AssayedFrame,
  type Brief,
  type Convention,
  type FrameCount,
  type Rectangle,
} from '@mint-tally/core';
import { measurePlan, stepOf } from '../assaying/assay-folder.ts';
import { planAssay, type AssayPlan, type FramePlan } from '../assaying/plan.ts';
import { countFolder } from '../counting/count-folder.ts';
import { withFile } from '../inspection/inspect-file.ts';
import { filesThere } from './already-there.ts';
import { denoiseFrames } from './denoise-frames.ts';
import { filesToWrite, nameIn, notesOf, type PassPlace } from './files-to-write.ts';
import type { DenoisedFrame, FileToWrite } from './finish-one.ts';
import { ofPass, toMeasure } from './plan-of-pass.ts';

/** Raised when none of the wanted frames has a file. */
export class NoFramesThereError extends MintError {
  constructor(folder: string, pass: string) {
    super('no-frames', `No frame of ${pass} is there.`, { subject: folder, remedy: 'Look at what the count says of it.' });
  }
}

/** What is known of a shot's noise before it is denoised. */
export interface KnownNoise {
  /** Of the pass, by frame. */
  readonly frames: ReadonlyMap<number, NoiseOfFrame>;
  readonly convention: Convention | null;
  /** What was written later, in milliseconds since 1970, is something else than was measured. */
  readonly at: number;
}

export type NoiseOfFrame = Pick<AssayedFrame, 'tiles' | 'noise' | 'temporalNoise'>;

export interface DenoiseOptions {
  /** Real path. */
  readonly folder: string;
  readonly brief: Brief;
  readonly pass: string;
  /** Real path of a folder below which is written, and where below it; made where it is not there. */
  readonly limit: string;
  readonly out: string;
  /** What a frame's file is called there; like the original where it is not said. */
  readonly nameOf?: (frame: number) => string;
  /** Lights that go along with the pass, by its weights: what summed to it sums to what it becomes. */
  readonly lights?: readonly PassPlace[];
  /** 1 is middle. */
  readonly strength: number;
  readonly frames: FrameCount;
  /** Frames that are wanted; all that are ordered where it is null. */
  readonly range: FrameSet | null;
  /** Where what is done is tried out: the part of the picture, where below `limit` the pictures of ghosts are written, and better renders of frames. */
  readonly test?: { readonly region: Rectangle | null; readonly ghosts: string; readonly references: ReadonlyMap<number, string> };
  /** Measured before, and taken where it is of these files and of all of them. */
  readonly known?: KnownNoise | null;
  /** Milliseconds since 1970. */
  readonly now: number;
  readonly threads?: number;
  /** Whether even little work is done in threads. */
  readonly apart?: boolean;
  readonly onProgress?: (phase: 'measuring' | 'denoising', done: number, total: number) => void;
  /** Asked between frames; when it says so, nothing further is begun. */
  readonly stopped?: () => boolean;
}

/** What became of a frame, and what was measured of it before. */
export interface DenoisedWith extends DenoisedFrame {
  readonly temporalBefore: number | null;
}

export interface Denoising {
  readonly frames: readonly DenoisedWith[];
  /** Frames that were there already, by the same settings of the same files. */
  readonly kept: FrameSet;
  /** Ordered frames that no file fills. */
  readonly missing: FrameSet;
  /** Lights that went along, and the frames in which they could not: they have no file, or it cannot be read, or is of another size. */
  readonly lights: readonly { readonly pass: string; readonly missing: FrameSet }[];
  /** What would have helped, and is not there. */
  readonly lacking: readonly string[];
  /** Frames that were filtered, those beside the wanted ones too, and the seconds that one of them took a thread. */
  readonly filtered: number;
  readonly secondsEach: number;
  /** What it went by; null where nothing was left to do. */
  readonly noise: KnownNoise | null;
  /** Whether it was stopped before all were done. */
  readonly isStopped: boolean;
}

/**
 * Denoises a pass's frames into another folder; null when it was stopped before it began with any.
 *
 * @throws NotForDenoisingError, FileAccessError, NotRewrittenError, MintError where the brief has no such pass, or other files are in the way
 */
export async function denoiseFolder(options: DenoiseOptions): Promise<Denoising | null> {
  const { folder, brief, pass, range, test, threads = os.availableParallelism(), apart = false, onProgress, stopped = () => false } = options;
  const ordered = brief.passes.find(({ name }) => name === pass);
  if (!ordered)
    throw new MintError('no-such-pass', `The brief orders no pass ${pass}.`, {
      subject: pass,
      remedy: `It orders ${brief.passes.map(({ name }) => name).join(', ')}.`,
    });
  refuseData(ordered);
  const lights = options.lights ?? [];
  refuseOthersBeside(
    brief.passes,
    ordered,
    lights.map((light) => light.pass),
  );
  const counted = await countFolder({ folder, brief, level: 'names', pool: null, proxyFolder: null, now: options.now });
  const whole = planAssay(counted.order, counted.table!);
  const wanted = range ? range.intersection(counted.order.frames) : counted.order.frames;
  if ([...wanted].length === 0) throw new MintError('no-frames', 'None of the frames that were named is ordered.', { remedy: 'Name frames of the brief.' });
  const plan = ofPass(whole, pass, lights);
  const places = plan.frames.flatMap(({ frame }, at) => (wanted.has(frame) ? [at] : []));
  const missing = wanted.difference(FrameSet.of(places.map((at) => plan.frames[at]!.frame)));
  if (places.length === 0) throw new NoFramesThereError(folder, pass);
  const firstOf = (name: string) => places.map((at) => plan.frames[at]!.colours[name]).find((file) => file !== undefined);
  for (const name of [pass, ...lights.map((light) => light.pass)]) refuseOtherFormats(folder, firstOf(name)?.path ?? null);
  const settings = sayDenoising(options.strength, options.frames) + (test?.region ? `, of ${test.region.join(' ')}` : '');
  const isWanted = new Set(places);
  const files = plan.frames.map((frame, at) => (isWanted.has(at) ? filesToWrite(frame, options, lights, settings) : []));
  const targetOf = ({ out, name }: FileToWrite) => path.join(options.limit, out, name);
  const found = filesThere(
    folder,
    places.flatMap((at) =>
      files[at]!.map((file) => ({ frame: plan.frames[at]!.frame, source: file.source, target: targetOf(file), settings: file.notes[DENOISED_NOTE]! })),
    ),
  );
  const notThere = files.map((all) => all.filter((file) => !found.has(targetOf(file))));
  const there = new Set(places.filter((at) => notThere[at]!.length === 0).map((at) => plan.frames[at]!.frame));
  const lacking = (unread: readonly DenoisedFrame[]) =>
    lights.map(({ pass: light }) => {
      const without = [
        ...places.flatMap((at) => (plan.frames[at]!.colours[light] ? [] : [plan.frames[at]!.frame])),
        ...unread.flatMap((frame) => (frame.without.includes(light) ? [frame.frame] : [])),
      ];
      const asked = counted.order.passes.find((one) => one.pass.name === light)!.frames;
      return { pass: light, missing: FrameSet.of(without).intersection(asked) };
    });
  const left = places.filter((at) => !there.has(plan.frames[at]!.frame));
  if (left.length === 0)
    return {
      ...{ frames: [], kept: FrameSet.of(there), missing, lights: lacking([]), lacking: lackingOf(plan.frames) },
      ...{ filtered: 0, secondsEach: 0, noise: null, isStopped: false },
    };
  const reach = (options.frames - 1) / 2;
  const step = stepOf(counted.order);
  // Noise is measured of all that were asked for, and beside them: what was stopped comes out as if it had not been.
  const [first, end] = [Math.max(0, places[0]! - reach - 1), Math.min(plan.frames.length, places.at(-1)! + reach + 2)];
  const frames = plan.frames.slice(first, end);
  const noise = knownOf(options.known ?? null, frames, pass) ?? (await measureNoise(options, toMeasure(frames, pass, whole), step));
  if (!noise) return null;
  let written = there.size;
  onProgress?.('denoising', written, places.length);
  const done = await denoiseFrames(
    {
      folder,
      frames,
      sigmas: frames.map(({ frame }) => noise.frames.get(frame)?.tiles ?? null),
      pass,
      lights: lights.map((light) => light.pass),
      convention: noise.convention ?? USUAL_CONVENTION,
      strength: options.strength,
      step,
      cuts: [...(brief.cuts ? parseFrameRange(brief.cuts) : [])],
      region: test?.region ?? null,
      isTest: test !== undefined,
      limit: options.limit,
      names: frames.map((frame) => nameIn(frame, options)),
      files: notThere.slice(first, end),
      ghosts: test?.ghosts ?? null,
      references: frames.map(({ frame }) => test?.references.get(frame) ?? null),
      reach,
      notes: notesOf(settings, [pass]),
    },
    left.map((at) => at - first),
    { threads, apart, isStopped: stopped, onFrame: () => onProgress?.('denoising', ++written, places.length) },
  );
  const { filtered, secondsEach, isStopped } = done;
  const temporalOf = (frame: number) => (test?.region ? null : (noise.frames.get(frame)?.temporalNoise ?? null));
  return {
    frames: done.frames.map((frame) => ({ ...frame, temporalBefore: temporalOf(frame.frame) })),
    kept: FrameSet.of(there),
    missing,
    lights: lacking(done.frames),
    lacking: lackingOf(frames),
    filtered,
    secondsEach,
    noise,
    isStopped,
  };
}

/** Measures the noise of frames; null when it was stopped. */
async function measureNoise(options: DenoiseOptions, plan: AssayPlan, step: number): Promise<KnownNoise | null> {
  const { folder, brief, pass, threads = os.availableParallelism(), apart = false, onProgress, stopped = () => false } = options;
  onProgress?.('measuring', 0, plan.frames.length);
  const measured = await measurePlan({
    folder,
    brief,
    plan,
    step,
    threads,
    apart,
    stopped,
    looks: null,
    onProgress: (done, total) => onProgress?.('measuring', done, total),
  });
  if (!measured) return null;
  const { convention } = measured;
  const own = measured.frames.filter((frame) => frame.pass === pass);
  return { frames: new Map(own.map((frame) => [frame.frame, frame])), convention: convention?.convention ?? null, at: options.now };
}

/** What was measured before, where it is of all these frames and of their files as they are. */
function knownOf(known: KnownNoise | null, frames: readonly FramePlan[], pass: string): KnownNoise | null {
  if (!known) return null;
  const isKnown = ({ frame, colours, features }: FramePlan) =>
    known.frames.has(frame) && [colours[pass]!, ...Object.values(features)].every((file) => file === null || file.modified <= known.at);
  return frames.every(isKnown) ? known : null;
}

/** Told before anything is measured. A file that cannot be read is told with its frame. @throws NotRewrittenError */
function refuseOtherFormats(folder: string, file: string | null): void {
  if (file === null) return;
  try {
    const { format } = withFile(folder, file, (source) => recogniseFormat(source, file).open(source).header);
    if (format !== 'exr') throw new NotRewrittenError(`${file} is ${format.toUpperCase()}.`);
  } catch (thrown) {
    if (!(thrown instanceof FrameFileError)) throw thrown;
  }
}

const HELPS = { albedo: 'texture', normal: 'shapes', depth: 'what lies before what', motion: 'where things move: nothing is steadied' } as const;

/** Passes that would help, and what they would tell. */
function lackingOf(frames: readonly FramePlan[]): string[] {
  return (Object.keys(HELPS) as (keyof typeof HELPS)[])
    .filter((role) => frames.every(({ features }) => features[role] === null))
    .map((role) => `${role} (${HELPS[role]})`);
}
