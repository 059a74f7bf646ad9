import { FrameSet, frameStates, parseFrameRange, stateRank, type Lane } from '@mint-tally/core';
import { stateOfLetter } from '$lib/states/states';
import type { FrameState } from '@mint-tally/core';

/** Letters by rank, so that a byte a frame is enough. */
const LETTERS = Object.values(frameStates);
/** A pass does not order this frame. */
export const NOT_ORDERED = 255;

/** One lane of the ribbon: a byte for each of its columns, the rank of the state. */
export interface RibbonLane {
  readonly name: string;
  readonly ranks: Uint8Array;
}

/** What the ribbon draws: the ordered frames as columns, the passes as lanes. */
export interface RibbonModel {
  readonly frames: Int32Array;
  readonly lanes: readonly RibbonLane[];
  /** The worst of all passes. */
  readonly worst: RibbonLane;
}

/** Brings all passes onto one row of columns: every frame that any of them orders. */
export function makeRibbonModel(lanes: readonly Lane[]): RibbonModel {
  const sets = lanes.map((lane) => parseFrameRange(lane.frames));
  const all = sets.reduce((sum, set) => sum.union(set), FrameSet.empty);
  const worst = new Uint8Array(all.size).fill(NOT_ORDERED);
  const made = lanes.map((lane, index): RibbonLane => {
    const ranks = new Uint8Array(all.size).fill(NOT_ORDERED);
    let column = 0;
    sets[index]!.frames.forEach((frame, i) => {
      while (all.frames[column] < frame) column++;
      const rank = stateRank(lane.states[i]!);
      ranks[column] = rank;
      if (worst[column] === NOT_ORDERED || rank > worst[column]) worst[column] = rank;
    });
    return { name: lane.pass, ranks };
  });
  return { frames: all.frames, lanes: made, worst: { name: 'all passes', ranks: worst } };
}

export function stateOfRank(rank: number): FrameState | null {
  return rank === NOT_ORDERED ? null : stateOfLetter(LETTERS[rank]!);
}

/** The column of a frame, or of the nearest that is ordered. */
export function columnOf(frames: Int32Array, frame: number): number {
  let low = 0;
  let high = frames.length - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (frames[middle] < frame) low = middle + 1;
    else high = middle;
  }
  if (low > 0 && Math.abs(frames[low - 1] - frame) < Math.abs(frames[low] - frame)) return low - 1;
  return low;
}

/** A stretch of pixels in one state. */
export interface Stretch {
  readonly x: number;
  readonly width: number;
  readonly rank: number;
}

/** Columns at least this wide, in pixels, are drawn one by one. */
const SINGLE_FROM = 4;
/** A state that calls for attention is never narrower than this, in pixels: one missing frame in ten thousand must be seen. */
const NARROWEST_TROUBLE = 3;
const WAIVED = stateRank(frameStates.waived);

/**
 * Turns a lane's states into stretches of pixels. Where columns are narrower than a few pixels,
 * several frames share one and the worst wins, so that one missing frame in ten thousand shows.
 *
 * @param from first column shown, may be a fraction; `to` the end of the last
 * @param width in pixels
 */
export function layOutLane(ranks: Uint8Array, from: number, to: number, width: number): Stretch[] {
  const scale = width / (to - from);
  const stretches: Stretch[] = [];
  const first = Math.max(0, Math.floor(from));
  const end = Math.min(ranks.length, Math.ceil(to));
  if (scale >= SINGLE_FROM) {
    const gap = scale >= 7 ? 1 : 0.5;
    for (let column = first; column < end; column++) {
      if (ranks[column] !== NOT_ORDERED) stretches.push({ x: (column - from) * scale, width: scale - gap, rank: ranks[column] });
    }
    return stretches;
  }
  // Multiplied before it is divided, so that whole numbers stay whole.
  const pixelOf = (column: number) => Math.floor(((column - from) * width) / (to - from));
  const pixels = new Uint8Array(Math.ceil(width)).fill(NOT_ORDERED);
  let next = pixelOf(first);
  for (let column = first; column < end; column++) {
    const rank = ranks[column];
    const pixel = next;
    next = pixelOf(column + 1);
    if (rank === NOT_ORDERED) continue;
    const narrowest = rank > WAIVED ? NARROWEST_TROUBLE : 1;
    // Trouble at the very end begins a little early: it must not be cut to less than can be seen.
    const begin = Math.max(0, Math.min(pixel, pixels.length - narrowest));
    const stop = Math.min(pixels.length, Math.max(begin + narrowest, next));
    for (let x = begin; x < stop; x++) if (pixels[x] === NOT_ORDERED || rank > pixels[x]) pixels[x] = rank;
  }
  for (let x = 0; x < pixels.length;) {
    let last = x + 1;
    while (last < pixels.length && pixels[last] === pixels[x]) last++;
    if (pixels[x] !== NOT_ORDERED) stretches.push({ x, width: last - x, rank: pixels[x] });
    x = last;
  }
  return stretches;
}

const laidOut = new WeakMap<Uint8Array, { from: number; to: number; width: number; stretches: readonly Stretch[] }>();

/**
 * The stretches of {@link layOutLane}, kept until the lane is shown otherwise: when only the
 * playhead or the pointer moves, thousands of frames need not be gone through again.
 *
 * @param ranks never written into
 */
export function stretchesOf(ranks: Uint8Array, from: number, to: number, width: number): readonly Stretch[] {
  const known = laidOut.get(ranks);
  if (known && known.from === from && known.to === to && known.width === width) return known.stretches;
  const stretches = layOutLane(ranks, from, to, width);
  laidOut.set(ranks, { from, to, width, stretches });
  return stretches;
}

/** Frames to label along the top, a readable step apart. */
export function chooseTicks(frames: Int32Array, from: number, to: number, width: number, apart: number): number[] {
  const columnsApart = Math.max(1, (apart * (to - from)) / width);
  const magnitude = 10 ** Math.floor(Math.log10(columnsApart));
  const nice = [1, 2, 5, 10].map((factor) => factor * magnitude).find((step) => step >= columnsApart)!;
  const step = columnsApart > 4 && columnsApart <= 8 ? 8 : Math.max(1, nice);
  const ticks: number[] = [];
  for (let column = Math.ceil(Math.max(0, from) / step) * step; column < Math.min(frames.length, to); column += step) ticks.push(column);
  return ticks;
}
