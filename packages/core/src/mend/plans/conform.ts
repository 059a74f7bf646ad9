import type { Order } from '../../brief/index.ts';
import { framePath } from '../../naming/index.ts';
import { formatFrameRange, FrameSet } from '../../ranges/index.ts';
import { formatFrameRate, formatTimecode, type FrameRate } from '../../timing/index.ts';
import { counted } from '../../wording.ts';
import type { Assignment } from '../../tally/index.ts';
import type { MendPlan, MendStep } from '../steps.ts';

/** Which frame stands where at another rate: `from[i]` is shown at the i-th place. */
export interface FrameMap {
  readonly first: number;
  readonly from: readonly number[];
  /** Frames that are shown nowhere any more, and those that are shown more than once. */
  readonly dropped: FrameSet;
  readonly doubled: FrameSet;
}

/**
 * The map of frames from one rate to another at the same speed: at every moment of the new rate stands the frame that stood
 * there before. It lasts as long, to half a frame.
 *
 * @param frames the ordered ones, without gaps
 */
export function mapFrames(frames: FrameSet, from: FrameRate, to: FrameRate): FrameMap {
  const [first, count] = [frames.first!, frames.size];
  // Whole numbers all along: at 23.976 a shot of an hour would be a frame off by rounding.
  const [up, down] = [BigInt(from.numerator) * BigInt(to.denominator), BigInt(from.denominator) * BigInt(to.numerator)];
  const length = Math.max(1, Number((2n * BigInt(count) * down + up) / (2n * up)));
  // The middle of a frame's time, so that a rate that is nearly the same drops or doubles as late as possible.
  const source = Array.from({ length }, (_, i) => first + Math.min(count - 1, Number(((2n * BigInt(i) + 1n) * up) / (2n * down))));
  const times = new Map<number, number>();
  for (const frame of source) times.set(frame, (times.get(frame) ?? 0) + 1);
  return {
    ...{ first, from: source },
    dropped: FrameSet.of([...frames].filter((frame) => !times.has(frame))),
    doubled: FrameSet.of([...times].flatMap(([frame, count]) => (count > 1 ? [frame] : []))),
  };
}

/** A map in words: how many frames become how many, which of them, and what time it is at the ends. */
export function sayFrameMap(map: FrameMap, count: number, from: FrameRate, to: FrameRate): string[] {
  const timecodes = (frames: number, rate: FrameRate) => `00:00:00:00 to ${formatTimecode(frames - 1, rate)}`;
  const seconds = (frames: number, rate: FrameRate) => ((frames * rate.denominator) / rate.numerator).toFixed(3);
  const { length } = map.from;
  return [
    `${counted(count, 'frame')} at ${formatFrameRate(from)} become ${counted(length, 'frame')} at ${formatFrameRate(to)}: ${map.first}-${map.first + length - 1}.`,
    ...(map.doubled.isEmpty ? [] : [`Shown more than once: ${formatFrameRange(map.doubled)}.`]),
    ...(map.dropped.isEmpty ? [] : [`Shown no more: ${formatFrameRange(map.dropped)}.`]),
    `Timecode ${timecodes(count, from)} becomes ${timecodes(length, to)}; a sound of ${seconds(count, from)} s meets ${seconds(length, to)} s of picture.`,
  ];
}

/** Gives frames the numbers that they have at another rate: those that go are set aside, those that are doubled are copied. */
export function planConform(order: Order, { claims }: Assignment, map: FrameMap): MendPlan {
  const steps: MendStep[] = [];
  const conflicts: MendPlan['conflicts'][number][] = [];
  claims.forEach((byFrame, index) => {
    const { pattern, pass, owner } = order.passes[index]!;
    if (owner !== index) return;
    const places = new Map<number, number[]>();
    map.from.forEach((frame, i) => places.set(frame, [...(places.get(frame) ?? []), map.first + i]));
    for (const [frame, claims] of byFrame) {
      // What is of another format is no frame of this name, at any rate.
      const list = claims.filter(({ relation }) => relation !== 'format');
      if (list.length === 0) continue;
      if (list.length > 1) {
        conflicts.push({ files: list.map(({ file }) => file.path), message: `${list.length} files stand for frame ${frame} of ${pass.name}.` });
        continue;
      }
      const { path } = list[0]!.file;
      const numbers = places.get(frame) ?? [];
      if (numbers.length === 0) steps.push({ action: 'set-aside', from: path, to: path, reason: `frame ${frame} is dropped` });
      const stays = numbers.find((number) => framePath(pattern, number) === path);
      const moved = stays ?? numbers[0];
      for (const number of numbers) {
        if (number === stays) continue;
        const isMoved = number === moved;
        const reason = isMoved ? `frame ${frame} becomes ${number}` : `frame ${frame} is shown again as ${number}`;
        steps.push({ action: isMoved ? 'rename' : 'write', from: path, to: framePath(pattern, number), reason });
      }
    }
  });
  return { steps, conflicts };
}
