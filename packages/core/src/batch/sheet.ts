import { formatFrameRange, FrameSet } from '../ranges/index.ts';
import type { Share } from './split.ts';

/** Frames in the order given, as ranges: `1001 1032 1016 1002-1004`, each run as short as it goes. */
export function formatInOrder(frames: readonly number[]): string {
  const parts: string[] = [];
  for (let i = 0; i < frames.length;) {
    let end = i + 1;
    const step = frames[end] - frames[i];
    // Only rising runs are runs; three frames at least, or the ends are as short.
    while (step > 0 && end + 1 < frames.length && frames[end + 1] - frames[end] === step) end++;
    if (step > 0 && end - i >= 2) {
      parts.push(formatFrameRange(FrameSet.of(frames.slice(i, end + 1))));
      i = end + 1;
    } else parts.push(String(frames[i++]));
  }
  return parts.join(' ');
}

/** A split as lines for people who start machines themselves: `bowline 1001-1032`. */
export function splitAsText(shares: readonly Share[]): string {
  return shares
    .filter(({ frames }) => frames.length > 0)
    .map(({ machine, frames }) => `${machine} ${formatFrameRange(FrameSet.of(frames))}\n`)
    .join('');
}

/** A split as rows, one a machine. */
export function splitRows(shares: readonly Share[]): { machine: string; frames: number; range: string; order: string }[] {
  return shares.map(({ machine, frames }) => ({
    machine,
    frames: frames.length,
    range: formatFrameRange(FrameSet.of(frames)),
    order: formatInOrder(frames),
  }));
}
