import { FrameSet } from '../ranges/index.ts';

/**
 * The order in which to render so that trouble shows early: the first, the last and the middle
 * frame, then the middles of the gaps that are left, down to every `every`-th frame; then the rest
 * in their own order.
 *
 * @param every the widest gap between scouted frames, in ordered frames; 1 or more
 */
export function scoutOrder(frames: FrameSet, every: number): { scouts: number[]; rest: number[] } {
  const { frames: values } = frames;
  const last = values.length - 1;
  if (last < 0) return { scouts: [], rest: [] };
  const chosen = new Set([0, last]);
  // A queue, so that wide gaps are halved before narrow ones.
  const gaps: [number, number][] = [[0, last]];
  for (let next = gaps.shift(); next; next = gaps.shift()) {
    const [from, to] = next;
    if (to - from <= Math.max(1, every)) continue;
    const middle = (from + to) >> 1;
    chosen.add(middle);
    gaps.push([from, middle], [middle, to]);
  }
  const scouts = [...chosen].map((index) => values[index]!);
  const scouted = new Set(scouts);
  return { scouts, rest: [...values].filter((frame) => !scouted.has(frame)) };
}
