import type { AssayedFrame } from '../../assay/index.ts';
import { median } from '../../statistics.ts';
import type { FindingCollector } from '../findings.ts';
import { counted, roughly } from '../../wording.ts';

/** A step of noise, as a factor, that is told at least; */
const LEAST_STEP = 1.2;
/** relative to the light of the picture by this factor, the same way; */
const LEAST_RELATIVE = 1.1;
const DARKEST = 1e-6;
/** and at least so many times what it usually changes from frame to frame. */
const STANDS_OUT = 6;
/** Where the files say that it has other samples, fewer times: then it is known why it should be a step. */
const STANDS_OUT_KNOWN = 2;
/** In a light, where the beauty has been told of with it, it only has to be a step: settings make the noise of all of them. */
const STANDS_OUT_TOLD = 0;
/**
 * And no less than chance makes of it: what a frame's noise varies by in its logarithm, over one by the root of the tiles that
 * hold it. In small pictures a few highlights hold most of it.
 */
const BY_CHANCE = 1;
/** Frames on either side of a step whose level is compared. */
const AROUND = 5;
/** Fewer frames say nothing of what is usual. */
const FEWEST = 6;
/** A start comes down in so many steps at least, and takes this share of the shot at most. */
const SETTLING_STEPS = 2;
const LONGEST_START = 1 / 3;
/** Behind it noise falls by less than this share of what it fell by in it, over as many frames. */
const FALLS_ON = 0.75;

interface Run {
  readonly from: number;
  /** Behind the last. */
  readonly to: number;
  readonly level: number;
}

/**
 * Frames, or runs of them, that are noisier or cleaner than the rest; the first of them may be a start that has not settled.
 *
 * @param whole frames of the beauty that a light is a part of, which has been judged before; none for the beauty itself. What gathers light over frames gathers
 *   all of it, while a single light may well fade at the beginning
 */
export function findNoiseShifts(collector: FindingCollector, frames: readonly AssayedFrame[], whole: readonly AssayedFrame[]): void {
  const told = comparable(frames);
  if (told.length < FEWEST) return;
  const levels = levelsOf(told);
  const mayStart = whole.length === 0 || settlingFrames(levelsOf(comparable(whole))) > 0;
  const start = mayStart ? settlingFrames(levels) : 0;
  if (start > 0) tellStart(collector, told, start, levels);
  const isOfWhole = ({ frame }: AssayedFrame) => whole.some(({ pass }) => collector.has(pass, frame, ['noise-shift', 'unsettled-start']));
  const runs = runsOf(levels, start, told, isOfWhole);
  const relatives = told.map(({ noise, meanLuminance }) => Math.log(noise! / Math.max(DARKEST, meanLuminance ?? 0)));
  const level = levelGroups(runs, levels);
  const usual = runs.reduce((longest, run) => (run.to - run.from > longest.to - longest.from ? run : longest));
  for (const run of runs) {
    // Held against each other where they are nearest: noise may drift along a shot.
    const isBehind = run.from >= usual.to;
    const nearest = (values: readonly number[], one: Run, atEnd: boolean) =>
      median(atEnd ? values.slice(Math.max(one.from, one.to - AROUND), one.to) : values.slice(one.from, Math.min(one.to, one.from + AROUND)));
    const timesOf = (values: readonly number[]) => Math.exp(nearest(values, run, !isBehind) - nearest(values, usual, isBehind));
    const [times, relative] = [timesOf(levels), timesOf(relatives)];
    // A light that comes up brings its noise with it.
    if (Math.abs(Math.log(relative)) < Math.log(LEAST_RELATIVE) || relative > 1 !== times > 1) continue;
    if (level.get(run) === level.get(usual) || (times < LEAST_STEP && times > 1 / LEAST_STEP)) continue;
    const why = explanationOf(told.slice(run.from, run.to), [...told.slice(0, run.from), ...told.slice(run.to)]);
    // In one light alone what is seen makes the noise; settings make that of all of them.
    const ofWhole = told.slice(run.from, run.to).filter(isOfWhole).length;
    if (whole.length > 0 && why === '' && 2 * ofWhole <= run.to - run.from) continue;
    const detail = `${times > 1 ? roughly(times) : roughly(1 / times)} times as ${times > 1 ? 'noisy' : 'clean'} as the frames around${why}`;
    for (const { frame, file, pass, noise } of told.slice(run.from, run.to))
      collector.add('noise-shift', pass, { frame, file, detail, evidence: `Noise ${noise!.toPrecision(3)}.` });
  }
}

/** Frames whose noise is known, and can be held against that of those beside them. */
function comparable(frames: readonly AssayedFrame[]): AssayedFrame[] {
  return frames.filter((frame, i) => frame.noise !== null && frame.noise > 0 && !coversOtherwise(frames, i));
}

const levelsOf = (frames: readonly AssayedFrame[]) => frames.map(({ noise }) => Math.log(noise!));

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
  if (samples !== null) return `, with ${counted(samples, 'sample')}`;
  const host = only((frame) => frame.host);
  return host === null ? '' : `, all of them from ${host}`;
}

/**
 * The standard deviation of what is usual, by a low quantile: in a short shot half of the frames may have a fault. Three in
 * ten of a normal spread lie within 0.385 of it.
 */
function spreadOf(departures: readonly number[]): number {
  const sizes = departures.map(Math.abs).sort((a, b) => a - b);
  return (sizes[Math.floor(0.3 * sizes.length)] ?? 0) / 0.385;
}

/** Stretches between sudden steps. @param isOfWhole whether the beauty has been told of in a frame */
function runsOf(levels: readonly number[], start: number, frames: readonly AssayedFrame[], isOfWhole: (frame: AssayedFrame) => boolean): Run[] {
  const steps = levels.slice(1).map((level, i) => level - levels[i]!);
  const usualStep = spreadOf(steps.slice(start));
  // One for the whole shot: a run that is told from what is before it has to be told from what is behind it as well.
  const chance = median(frames.map(byChance));
  const least = (times: number) => Math.max(Math.log(LEAST_STEP), times * usualStep);
  const leastAt = (i: number) => {
    const [before, after] = [frames[i]!, frames[i + 1]!];
    if (!isKnownStep(before, after, steps[i]!)) return Math.max(least(STANDS_OUT), chance);
    return least(isOfWhole(before) === isOfWhole(after) ? STANDS_OUT_KNOWN : STANDS_OUT_TOLD);
  };
  const edges = [start];
  for (let i = start; i < steps.length; i++) if (Math.abs(steps[i]!) >= leastAt(i)) edges.push(i + 1);
  edges.push(levels.length);
  return edges.slice(1).flatMap((to, i) => {
    const from = edges[i]!;
    return to > from ? [{ from, to, level: median(levels.slice(from, to)) }] : [];
  });
}

/** How much of a step chance may make in a frame: more, the fewer tiles hold its noise. */
function byChance({ tiles }: AssayedFrame): number {
  let [sum, squares] = [0, 0];
  for (const sigma of tiles) {
    if (!Number.isFinite(sigma)) continue;
    sum += sigma ** 2;
    squares += sigma ** 4;
  }
  return squares > 0 ? (BY_CHANCE * Math.sqrt(squares)) / sum : 0;
}

/** Whether the files say that samples go down where noise goes up, or up where it goes down. */
function isKnownStep(before: AssayedFrame, after: AssayedFrame, step: number): boolean {
  return before.samples !== null && after.samples !== null && (after.samples - before.samples) * step < 0;
}

/** Runs of one level, by the first of them: what goes on behind a run as it was before it is no step. */
function levelGroups(runs: readonly Run[], levels: readonly number[]): Map<Run, Run> {
  const firsts = new Map<Run, Run>();
  runs.forEach((run, i) => {
    const before = runs[i - 2];
    const goesOn = before !== undefined && Math.abs(levels[run.from]! - levels[before.to - 1]!) < Math.log(LEAST_STEP);
    firsts.set(run, goesOn ? firsts.get(before)! : run);
  });
  return firsts;
}

/** How many first frames come down to the level of the rest, step by step; 0 where they do not. */
function settlingFrames(levels: readonly number[]): number {
  const most = Math.floor(levels.length * LONGEST_START);
  const rest = levels.slice(most);
  const settled = median(rest);
  const jitter = Math.max(Math.log(LEAST_STEP) / 2, 3 * spreadOf(rest.map((level) => level - settled)));
  let count = 0;
  while (count < most && levels[count]! > settled + jitter) count++;
  if (count < SETTLING_STEPS || levels[0]! - settled < Math.log(LEAST_STEP)) return 0;
  // Every frame of the start is cleaner than the one before by a part of the way that is left.
  const falls = levels.slice(0, count).every((level, i) => level - levels[i + 1]! > 0.15 * (level - settled));
  const isSudden = levels.slice(0, count).some((level, i) => level - levels[i + 1]! > 0.8 * (levels[0]! - settled));
  // What falls on behind it as it did in it drifts, and settles nowhere.
  const fallsOn = levels[count]! - levels[2 * count]! > FALLS_ON * (levels[0]! - levels[count]!);
  return falls && !isSudden && !fallsOn ? count : 0;
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
