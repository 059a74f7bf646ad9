import type { AssayedFrame } from '../../assay/index.ts';
import { median } from '../../statistics.ts';
import type { FindingCollector } from '../findings.ts';
import { roughly } from '../../wording.ts';

/** A step of noise, as a factor, that is told at least; */
const LEAST_STEP = 1.2;
/** and at least so many times what it usually changes from frame to frame. */
const STANDS_OUT = 6;
/** Frames on either side of a step whose level is compared. */
const AROUND = 5;
/** Fewer frames say nothing of what is usual. */
const FEWEST = 6;
/** A start comes down in so many steps at least, and takes this share of the shot at most. */
const SETTLING_STEPS = 2;
const LONGEST_START = 1 / 3;

interface Run {
  readonly from: number;
  /** Behind the last. */
  readonly to: number;
  readonly level: number;
}

/** Frames, or runs of them, that are noisier or cleaner than the rest; the first of them may be a start that has not settled. */
export function findNoiseShifts(collector: FindingCollector, frames: readonly AssayedFrame[]): void {
  const told = frames.filter((frame, i) => frame.noise !== null && frame.noise > 0 && !coversOtherwise(frames, i));
  if (told.length < FEWEST) return;
  const levels = told.map(({ noise }) => Math.log(noise!));
  const start = settlingFrames(levels);
  if (start > 0) tellStart(collector, told, start, levels);
  const runs = runsOf(levels, start);
  const usual = runs.reduce((longest, run) => (run.to - run.from > longest.to - longest.from ? run : longest));
  for (const run of runs) {
    // Held against the usual level where it is nearest: noise may drift along a shot.
    const beside =
      run.from >= usual.to
        ? levels.slice(Math.max(usual.from, usual.to - AROUND), usual.to)
        : levels.slice(usual.from, Math.min(usual.to, usual.from + AROUND));
    const times = Math.exp(run.level - median(beside));
    if (run === usual || (times < LEAST_STEP && times > 1 / LEAST_STEP)) continue;
    const why = explanationOf(told.slice(run.from, run.to), [...told.slice(0, run.from), ...told.slice(run.to)]);
    const detail = `${times > 1 ? roughly(times) : roughly(1 / times)} times as ${times > 1 ? 'noisy' : 'clean'} as the frames around${why}`;
    for (const { frame, file, pass, noise } of told.slice(run.from, run.to))
      collector.add('noise-shift', pass, { frame, file, detail, evidence: `Noise ${noise!.toPrecision(3)}.` });
  }
}

/** A frame that covers this much more or less of the picture than both beside it shows something else: its alpha is missing, or wrong. */
const OTHER_COVER = 0.1;

function coversOtherwise(frames: readonly AssayedFrame[], i: number): boolean {
  const beside = [frames[i - 1], frames[i + 1]].flatMap((frame) => (frame ? [frames[i]!.covered / frame.covered - 1] : []));
  return beside.length > 0 && beside.every((more) => Math.abs(more) > OTHER_COVER && Math.sign(more) === Math.sign(beside[0]!));
}

/** What the files of a run say that those of the other frames do not: samples, else the machine. */
function explanationOf(run: readonly AssayedFrame[], others: readonly AssayedFrame[]): string {
  const only = <Value>(of: (frame: AssayedFrame) => Value | null): Value | null => {
    const own = of(run[0]!);
    return own !== null && run.every((frame) => of(frame) === own) && others.every((frame) => of(frame) !== own) ? own : null;
  };
  const samples = only((frame) => frame.samples);
  if (samples !== null) return `, with ${samples} samples`;
  const host = only((frame) => frame.host);
  return host === null ? '' : `, all of them from ${host}`;
}

/** Stretches between sudden steps. */
function runsOf(levels: readonly number[], start: number): Run[] {
  const steps = levels.slice(1).map((level, i) => level - levels[i]!);
  const usualStep = 1.4826 * median(steps.map(Math.abs));
  const least = Math.max(Math.log(LEAST_STEP), STANDS_OUT * usualStep);
  const edges = [start];
  for (let i = start; i < steps.length; i++) if (Math.abs(steps[i]!) >= least) edges.push(i + 1);
  edges.push(levels.length);
  return edges.slice(1).flatMap((to, i) => {
    const from = edges[i]!;
    return to > from ? [{ from, to, level: median(levels.slice(from, to)) }] : [];
  });
}

/** How many first frames come down to the level of the rest, step by step; 0 where they do not. */
function settlingFrames(levels: readonly number[]): number {
  const most = Math.floor(levels.length * LONGEST_START);
  const rest = levels.slice(most);
  const settled = median(rest);
  const jitter = Math.max(Math.log(LEAST_STEP) / 2, 3 * 1.4826 * median(rest.map((level) => Math.abs(level - settled))));
  let count = 0;
  while (count < most && levels[count]! > settled + jitter) count++;
  if (count < SETTLING_STEPS || levels[0]! - settled < Math.log(LEAST_STEP)) return 0;
  // Every frame of the start is cleaner than the one before by a part of the way that is left.
  const falls = levels.slice(0, count).every((level, i) => level - levels[i + 1]! > 0.15 * (level - settled));
  const isSudden = levels.slice(0, count).some((level, i) => level - levels[i + 1]! > 0.8 * (levels[0]! - settled));
  return falls && !isSudden ? count : 0;
}

function tellStart(collector: FindingCollector, frames: readonly AssayedFrame[], count: number, levels: readonly number[]): void {
  const times = roughly(Math.exp(levels[0]! - median(levels.slice(count))));
  for (const { frame, file, pass, noise } of frames.slice(0, count))
    collector.add('unsettled-start', pass, {
      frame,
      file,
      detail: `the first is ${times} times as noisy as the rest`,
      evidence: `Noise ${noise!.toPrecision(3)}.`,
    });
}
