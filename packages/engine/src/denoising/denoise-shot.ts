import { mkdir } from 'node:fs/promises';
import path from 'node:path';
import {
  formatFrameRange,
  FrameSet,
  framePath,
  framesTold,
  joinSittings,
  MintError,
  parseFrameRange,
  parseFrameSet,
  parseNamePattern,
  shareOfDetail,
  withDenoised,
  type DenoisedPlace,
  type DenoiseFigures,
  type FrameCount,
} from '@mint-tally/core';
import {
  claimDenoisePart,
  denoiseProgress,
  endDenoisePart,
  findDenoise,
  findShot,
  interruptDenoisePart,
  newestBrief,
  requestJob,
  saveBrief,
  type DenoiseRun,
  type SavedBrief,
  type Shot,
  type Transaction,
} from '@mint-tally/store';
import { findRoot, resolveInside, resolveWritable } from '../files/roots.ts';
import type { Commit, JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { denoiseFolder, NoFramesThereError, type Denoising, type DenoiseOptions } from './denoise-folder.ts';
import { knownNoiseOf } from './known-noise-of.ts';
import { meanKnown } from './mean-known.ts';
import { findReferences } from './references.ts';
import { testPlace } from './test-place.ts';

/** A run with all that is needed to go on with it. */
interface Work {
  readonly run: DenoiseRun;
  readonly shot: Shot;
  readonly saved: SavedBrief;
}

/**
 * Sits down at a run: takes its parts one after the other, until none is left that nobody works on. Whoever ends the last one
 * orders the result in the brief, and has it counted. Null when it was stopped; what has been written is found there again.
 *
 * @throws MintError
 */
export async function denoiseShot(tools: JobTools, control: JobControl): Promise<Commit | null> {
  const { run: runId } = control.job.request as { run: number };
  const { database } = tools;
  const run = await findDenoise(database, runId);
  const [shot, saved] = run ? await Promise.all([findShot(database, run.shotId), newestBrief(database, run.shotId)]) : [null, null];
  if (!run || !shot || !saved) throw new MintError('no-brief', 'The shot, its brief or what was to be denoised is not there any more.');
  const work: Work = { run, shot, saved };
  const begun = await denoiseProgress(database, runId);
  let known = await knownNoiseOf(database, run, saved.brief);
  for (;;) {
    const part = await control.record((inside) => claimDenoisePart(inside, runId, control.job.id));
    if (!part) return async () => ({ run: runId });
    const before = await denoiseProgress(database, runId);
    const denoising = await denoisePart({
      ...(await optionsOf(tools, work, run.request.strengths[part.strength]!)),
      range: part.frames,
      known,
      now: Date.now(),
      threads: tools.config.workers,
      apart: true,
      stopped: () => control.stopReason !== null,
      onProgress(phase, done, total) {
        if (phase === 'measuring') return control.report({ phase: 'measuring frames', done, total, bytesDone: 0, bytesTotal: 0 });
        const all = before.done + done;
        // Time goes by what was done since this engine sat down.
        control.report({ phase: 'denoising', done: all, total: before.total, bytesDone: all - begun.done, bytesTotal: before.total - begun.done });
      },
    });
    if (!denoising) return null;
    // The next strength goes by what was measured for this one.
    known = denoising.noise ?? known;
    // A frame whose light cannot be read is done again each time, and told once.
    const own = figuresOf(denoising, tools.config.workers, part.soFar ? framesTold(part.soFar) : FrameSet.empty);
    const figures = part.soFar ? joinSittings(part.soFar, own) : own;
    if (denoising.isStopped) {
      // Whoever has it by now finds the frames, and what they came to is not ours to tell.
      if (control.stopReason !== 'lost') await control.record((inside) => interruptDenoisePart(inside, runId, part.part, figures));
      return null;
    }
    const isDone = await control.record(async (inside) => {
      const ended = await endDenoisePart(inside, runId, part.part, figures);
      if (ended && run.request.purpose === 'range') await orderResult(inside, work, control.job.actor);
      return ended;
    });
    if (isDone) return async () => ({ run: runId });
  }
}

/** Denoises a part of a range; of one whose frames all lack a file, that is what is told: the others go on. */
async function denoisePart(options: DenoiseOptions): Promise<Denoising | null> {
  try {
    return await denoiseFolder(options);
  } catch (thrown) {
    if (!(thrown instanceof NoFramesThereError) || options.test) throw thrown;
    return { frames: [], kept: FrameSet.empty, missing: options.range!, lights: [], lacking: [], filtered: 0, secondsEach: 0, noise: null, isStopped: false };
  }
}

/** Where the frames are, and where what comes of them goes. */
async function optionsOf({ config }: JobTools, { run, shot, saved }: Work, strength: number): Promise<Omit<DenoiseOptions, 'range' | 'now'>> {
  const { request } = run;
  const root = findRoot(config.roots, shot.root);
  const common = {
    folder: resolveInside(root, shot.folder),
    brief: saved.brief,
    pass: request.pass,
    strength,
    frames: request.frames as FrameCount,
  };
  if (request.purpose === 'test') {
    const place = testPlace(run.id, strength);
    await mkdir(config.dataFolder, { recursive: true });
    return {
      ...common,
      limit: config.dataFolder,
      out: place.pictures,
      test: { region: request.region, ghosts: place.ghosts, references: findReferences(config, shot.id) },
    };
  }
  const placeOf = (target: DenoisedPlace) => {
    const pattern = parseNamePattern(target.pattern);
    return { out: pattern.directory, nameOf: (frame: number) => path.posix.basename(framePath(pattern, frame)) };
  };
  return {
    ...common,
    // The real path, which no link leads out of: what is made below it is made there.
    limit: resolveWritable(root, shot.folder),
    ...placeOf(request.target!),
    lights: request.lights.map(({ pass, target }) => ({ pass, ...placeOf(target) })),
  };
}

/** @param before frames that have been told of */
function figuresOf({ frames, kept, missing, lights, lacking, filtered, secondsEach }: Denoising, threads: number, before: FrameSet): DenoiseFigures {
  const written = frames.filter(({ file }) => file !== null);
  const read = written.filter(({ frame }) => !before.has(frame));
  const details = read.flatMap(({ detail }) => detail ?? []);
  // A better render says more of its one frame than the others do of themselves.
  const referred = details.filter(({ isReferred }) => isReferred);
  const detailed = referred.length > 0 ? referred : details;
  return {
    written: written.length + kept.size,
    told: read.length,
    frames: formatFrameRange(FrameSet.of(read.map(({ frame }) => frame))),
    noiseBefore: meanKnown(read.map(({ noiseBefore }) => noiseBefore)),
    noise: meanKnown(read.map(({ noise }) => noise)),
    temporalBefore: meanKnown(read.map(({ temporalBefore }) => temporalBefore)),
    temporalNoise: meanKnown(read.map(({ temporalNoise }) => temporalNoise)),
    detail: shareOfDetail(detailed),
    isReferred: detailed.some(({ isReferred }) => isReferred),
    filtered,
    secondsEach,
    threads,
    missing: formatFrameRange(missing),
    unreadable: formatFrameRange(FrameSet.of(frames.filter(({ file }) => file === null).map(({ frame }) => frame))),
    fireflies: read.reduce((sum, frame) => sum + frame.fireflies, 0),
    holes: read.reduce((sum, frame) => sum + frame.holes, 0),
    lacking: [...lacking],
    lights: lights.map((light) => ({ pass: light.pass, missing: formatFrameRange(light.missing) })),
  };
}

/** Orders the passes that have come about, or more frames of them, in a new version of the brief, and has all of it counted; nothing where no frame was there. */
async function orderResult(inside: Transaction, { run, shot }: Work, actor: string): Promise<void> {
  const [saved, parts] = [await newestBrief(inside, shot.id), (await findDenoise(inside, run.id))?.parts ?? []];
  const figures = parts.flatMap((part) => part.figures ?? []);
  const written = figures.reduce((sum, one) => sum + one.written, 0);
  if (!saved || written === 0) return;
  const { pass, target, lights, range } = run.request;
  const lacked = (light: string) => figures.reduce((sum, one) => sum + parseFrameSet(one.lights.find((other) => other.pass === light)?.missing ?? '').size, 0);
  const results = [{ pass, target: target! }, ...lights.filter((light) => lacked(light.pass) < written)];
  const brief = results.reduce((ordered, result) => withDenoised(ordered, result.pass, result.target, parseFrameRange(range)), saved.brief);
  await saveBrief(inside, shot.id, brief, actor);
  await requestJob(inside, shot.id, { kind: 'count' }, actor);
}
