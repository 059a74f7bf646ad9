import { scoutOrder } from '../brief/index.ts';
import { MintError } from '../errors.ts';
import { FrameSet } from '../ranges/index.ts';

/** A machine that takes part, and how fast it is against the others. */
export interface SplitMachine {
  readonly name: string;
  readonly speed: number;
}

/** How frames are shared out: in even runs, in runs by the machines' speed, or dealt in turn. */
export const splitRules = ['even', 'speed', 'interleaved'] as const;
export type SplitRule = (typeof splitRules)[number];

/** In which order each machine renders its frames. */
export const frameOrders = ['forward', 'scout'] as const;
export type FrameOrder = (typeof frameOrders)[number];

/** What one machine is to render, in the order in which it renders. */
export interface Share {
  readonly machine: string;
  readonly frames: readonly number[];
}

/** Raised when frames cannot be shared out as asked. */
export class SplitError extends MintError {
  constructor(message: string, remedy: string) {
    super('split', message, { remedy });
  }
}

/**
 * Where the runs of a split begin and end, as positions in the ordered frames: machine i has those
 * from `borders[i]` up to, but not, `borders[i + 1]`. Shares are by weight, whole frames, the
 * largest remainders first, so that no machine is off by a whole frame.
 */
export function workOutBorders(count: number, weights: readonly number[]): number[] {
  const sum = weights.reduce((total, weight) => total + weight, 0);
  const exact = weights.map((weight) => (count * weight) / sum);
  const whole = exact.map(Math.floor);
  const left = count - whole.reduce((total, share) => total + share, 0);
  const byRemainder = [...exact.keys()].sort((a, b) => exact[b] - whole[b] - (exact[a] - whole[a]) || a - b);
  for (const i of byRemainder.slice(0, left)) whole[i]++;
  const borders = [0];
  for (const share of whole) borders.push(borders.at(-1)! + share);
  return borders;
}

/** Cuts the frames into runs at borders. */
export function splitAtBorders(frames: FrameSet, machines: readonly SplitMachine[], borders: readonly number[]): Share[] {
  return machines.map(({ name }, i) => ({ machine: name, frames: [...frames.frames.subarray(borders[i], borders[i + 1])] }));
}

/**
 * Shares frames out over machines.
 *
 * @param chunk frames dealt at a time where they are interleaved; 1 or more
 * @throws SplitError without a machine
 */
export function splitFrames(frames: FrameSet, machines: readonly SplitMachine[], rule: SplitRule, chunk = 1): Share[] {
  if (machines.length === 0) throw new SplitError('No machine is chosen.', 'Choose at least one.');
  if (rule === 'interleaved') {
    const size = Math.max(1, Math.floor(chunk));
    const dealt = machines.map(({ name }) => ({ machine: name, frames: [] as number[] }));
    frames.frames.forEach((frame, i) => dealt[Math.floor(i / size) % machines.length]!.frames.push(frame));
    return dealt;
  }
  const weights = machines.map(({ speed }) => (rule === 'speed' ? speed : 1));
  return splitAtBorders(frames, machines, workOutBorders(frames.size, weights));
}

/** Puts every machine's frames into the order in which they are rendered. */
export function orderShares(shares: readonly Share[], order: FrameOrder, scouts = 8): Share[] {
  if (order === 'forward') return [...shares];
  return shares.map(({ machine, frames }) => {
    const found = scoutOrder(FrameSet.of(frames), Math.max(1, Math.ceil(frames.length / scouts)));
    return { machine, frames: [...found.scouts, ...found.rest] };
  });
}

/** Whether a split gives every ordered frame to one machine, once. */
export interface SplitProof {
  readonly ordered: number;
  readonly given: number;
  /** Frames that two machines have, or one has twice. */
  readonly twice: FrameSet;
  /** Ordered frames that nobody has. */
  readonly left: FrameSet;
  /** Frames that were not ordered. */
  readonly beyond: FrameSet;
  readonly holds: boolean;
}

/** Counts a split against what it was to share out. It looks at the shares alone, not at how they were made. */
export function proveSplit(frames: FrameSet, shares: readonly Share[]): SplitProof {
  const seen = new Set<number>();
  const twice: number[] = [];
  let given = 0;
  for (const share of shares) {
    for (const frame of share.frames) {
      given++;
      if (seen.has(frame)) twice.push(frame);
      seen.add(frame);
    }
  }
  const all = FrameSet.of(seen);
  const [left, beyond] = [frames.difference(all), all.difference(frames)];
  return { ordered: frames.size, given, twice: FrameSet.of(twice), left, beyond, holds: twice.length === 0 && left.isEmpty && beyond.isEmpty };
}
