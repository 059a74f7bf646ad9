import type { PassEyes } from '@mint-tally/core';
import type { Strip } from './draw-figures';
import type { Palette } from './draw-states';
import { columnOf } from './ribbon-model';

/** How far a frame has been watched, from nothing to all; where frames share a pixel the least is shown. */
const NOT_THERE = 255;
const SHARES = [0.12, 0.3, 0.5, 0.75, 1] as const;

/** What has been seen of a pass, for each column of the ribbon. */
export function makeWatchedLane(frames: Int32Array, eyes: PassEyes): Uint8Array {
  const lane = new Uint8Array(frames.length).fill(NOT_THERE);
  [eyes.unseen, eyes.stepped, eyes.fitted, eyes.partly, eyes.watched].forEach((set, level) => {
    for (const frame of set) lane[columnOf(frames, frame)] = level;
  });
  return lane;
}

/** Bars: the higher, the more has been seen; only what was watched whole reaches the top, in mint. */
export function drawWatched(context: CanvasRenderingContext2D, lane: Uint8Array, { shown: [from, to], top, width, height }: Strip, palette: Palette): void {
  const scale = width / (to - from);
  for (let x = 0; x < width;) {
    // A pixel, or a column where it is wider than that.
    const first = Math.floor(from + x / scale);
    const next = scale > 1 ? Math.min(width, (first + 1 - from) * scale) : x + 1;
    let least = NOT_THERE;
    const end = scale > 1 ? first + 1 : Math.ceil(from + next / scale);
    for (let column = Math.max(0, first); column < Math.min(lane.length, end); column++) least = Math.min(least, lane[column]!);
    if (least !== NOT_THERE) {
      const tall = Math.max(1, SHARES[least]! * height);
      context.fillStyle = least === SHARES.length - 1 ? palette.mint : palette.soft;
      context.fillRect(x, top + height - tall, Math.max(0.5, next - x - (scale >= 7 ? 1 : 0)), tall);
    }
    x = next > x ? next : x + 1;
  }
}
