import type { Brief } from '../../brief/index.ts';
import { median } from '../../statistics.ts';
import { formatFrameRate, parseFrameRate } from '../../timing/index.ts';
import type { FindingCollector } from '../findings.ts';
import { commonest, type SeenFrame, type SeenPass } from './seen-pass.ts';

/** A pass that shows one picture in this share of its frames shows something that does not move. */
const STILL = 0.75;
/** Of fewer frames nobody can say whether the pass moves. */
const FEWEST_TO_MOVE = 5;
/** Passes that show single things may rest for a while; there only short repeats are odd. */
const LONGEST_ODD_SHARE = 0.1;
const ALWAYS_ODD = 3;

/**
 * Frames that repeat the one before, pixel by pixel, in a pass that moves. The repeats are told,
 * not the original. A pass that is animated on twos is left alone.
 */
export function findFrozenFrames(collector: FindingCollector, pass: SeenPass, brief: Brief): void {
  const known = comparable(pass);
  const runs = repeatRuns(known);
  const pairs = known.length - 1;
  if (runs.length === 0 || isStill(known) || isOnTwos(runs, pairs)) return;
  const rhythm = rhythmOf(runs, brief);
  for (const run of runs) {
    const isShort = run.length <= Math.max(ALWAYS_ODD, pairs * LONGEST_ODD_SHARE);
    if (pass.role !== 'beauty' && pass.role !== 'other' && !isShort) continue;
    const original = known[run[0] - 1]!;
    for (const index of run) {
      const { frame, file } = known[index]!;
      collector.add('frozen-frame', pass.name, {
        frame,
        file: file.path,
        ...(rhythm !== '' && { detail: rhythm }),
        evidence: `Pixel by pixel the picture of frame ${original.frame}.`,
        beside: original.file.path,
      });
    }
  }
}

/** So many single repeats, as far from each other, are a rhythm. */
const FEWEST_BEATS = 3;

/**
 * What a rhythm of repeats comes from: brought to another rate without new frames, a picture in so many stands twice.
 *
 * @param runs places of the repeats
 * @returns empty where they have none
 */
function rhythmOf(runs: readonly number[][], { fps }: Brief): string {
  const beats = runs.map(([first]) => first!);
  if (beats.length < FEWEST_BEATS || runs.some((run) => run.length > 1)) return '';
  const every = beats[1]! - beats[0]!;
  // Where the rates do not divide, a beat comes a frame sooner or later now and then.
  const gaps = beats.slice(1).map((beat, i) => beat - beats[i]!);
  if (gaps.some((gap) => Math.abs(gap - every) > 1) || median(gaps) !== every) return '';
  const mean = (beats[beats.length - 1]! - beats[0]!) / (beats.length - 1);
  const ordered = fps === undefined ? null : parseFrameRate(fps);
  const from = ordered && Number(((ordered.numerator / ordered.denominator) * (1 - 1 / mean)).toPrecision(3));
  return `every ${ordinal(every)} frame, as when ${from === null ? `${every - 1} frames are stretched to ${every}` : `${from} frames a second are brought to ${formatFrameRate(ordered!)}`}`;
}

/** 5th, 22nd. */
function ordinal(count: number): string {
  const ending = count % 100 >= 11 && count % 100 <= 13 ? 'th' : (['th', 'st', 'nd', 'rd'][count % 10] ?? 'th');
  return `${count}${ending}`;
}

/** Whether a pass shows something that does not move. */
export function isStill(known: readonly SeenFrame[]): boolean {
  const usual = commonest(known.map(({ picture }) => picture));
  return known.length < FEWEST_TO_MOVE || usual!.count >= known.length * STILL;
}

/** The frames of a pass whose pictures can be held against each other. */
export function comparable(pass: SeenPass): SeenFrame[] {
  return pass.frames.filter((seen) => seen.picture !== null && !seen.isOdd && !seen.isBlank);
}

/** Runs of places whose picture is that of the place before. */
function repeatRuns(known: readonly SeenFrame[]): number[][] {
  const runs: number[][] = [];
  for (let i = 1; i < known.length; i++) {
    if (known[i]!.picture !== known[i - 1]!.picture) continue;
    if (i > 1 && known[i - 1]!.picture === known[i - 2]!.picture) runs[runs.length - 1]!.push(i);
    else runs.push([i]);
  }
  return runs;
}

function isOnTwos(runs: readonly number[][], pairs: number): boolean {
  const single = runs.filter((run) => run.length === 1).length;
  return pairs >= 8 && single >= pairs * 0.4 && single >= runs.length * 0.8;
}
