import { median } from '../statistics.ts';

/** What is known of one machine while it renders. */
export interface MachinePace {
  readonly machine: string;
  /** Seconds of each frame that it has done. */
  readonly seconds: readonly number[];
  /** Frames that it has still to begin. */
  readonly waiting: number;
  /** Seconds since it began the frame in hand; null when it has none. */
  readonly inHand: number | null;
}

/** When a batch will be done: the likely number of seconds, and what it lies between nine times in ten. */
export interface TimeLeft {
  readonly seconds: number;
  readonly low: number;
  readonly high: number;
}

/**
 * Spread of values about their middle as a standard deviation would tell it, by the median of the
 * absolute deviations, which a few odd frames do not move (Hampel 1974; 1.4826 for normal values).
 */
function spreadOf(values: readonly number[], middle: number): number {
  return 1.4826 * median(values.map((value) => Math.abs(value - middle)));
}

/**
 * Half-width of nine in ten, in standard deviations, when the deviation itself is estimated: that
 * of Student's t by its first correction (Fisher 1926). The median deviation is worth 37 % of as
 * many values (Rousseeuw and Croux 1993).
 */
function nineInTen(values: number): number {
  return 1.645 + 1.524 / Math.max(1, 0.37 * (values - 1));
}

/** The median's standard error against the mean's (pi / 2, Kenney and Keeping 1951). */
const MEDIAN_ERROR = Math.sqrt(Math.PI / 2);
/** With one or two frames done nothing is known of their spread; so much of the middle is assumed. */
const ASSUMED_SPREAD = 0.5;

/**
 * Time left by the middle time of the frames done, machine by machine; the batch is done with its
 * last machine. A machine that has done nothing yet is taken to be as quick as the others.
 *
 * @returns null while no frame is done
 */
export function estimateTimeLeft(paces: readonly MachinePace[]): TimeLeft | null {
  const all = paces.flatMap(({ seconds }) => seconds);
  if (all.length === 0) return null;
  let [seconds, low, high] = [0, 0, 0];
  for (const { seconds: own, waiting, inHand } of paces) {
    const frames = waiting + (inHand === null ? 0 : 1);
    if (frames === 0) continue;
    const known = own.length > 0 ? own : all;
    const middle = median(known);
    const spread = known.length < 3 ? ASSUMED_SPREAD * middle : spreadOf(known, middle);
    const expected = Math.max(0, waiting * middle + (inHand === null ? 0 : Math.max(0, middle - inHand)));
    // Each frame to come is off by the spread, and all of them by what the middle itself is off.
    const error = nineInTen(known.length) * Math.hypot(spread * Math.sqrt(frames), (frames * spread * MEDIAN_ERROR) / Math.sqrt(known.length));
    seconds = Math.max(seconds, expected);
    low = Math.max(low, expected - error);
    high = Math.max(high, expected + error);
  }
  return { seconds, low: Math.max(0, low), high };
}

/**
 * The times between arrivals, in seconds: how often frames come where nobody says how long each
 * took.
 *
 * @param arrivals in milliseconds, in any order
 */
export function arrivalIntervals(arrivals: readonly number[]): number[] {
  const sorted = [...arrivals].sort((a, b) => a - b);
  return sorted.slice(1).map((at, i) => (at - sorted[i]) / 1000);
}

/** So many times as long as a frame usually takes is much longer. */
const MUCH_LONGER = 4;
/** Nothing is called stuck before this, in seconds: a renderer may be loading its scene. */
const AT_LEAST = 20;

/**
 * Whether a machine's frame in hand takes much longer than its frames do.
 *
 * @returns after how many seconds it would count as stuck
 */
export function stallAfter(seconds: readonly number[]): number {
  if (seconds.length === 0) return Infinity;
  const middle = median(seconds);
  return Math.max(AT_LEAST, MUCH_LONGER * middle + 3 * spreadOf(seconds, middle));
}
