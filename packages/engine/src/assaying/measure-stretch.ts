import {
  chain,
  differenceOfHalves,
  measureFrame,
  placesInNext,
  placesInPrevious,
  type Convention,
  type FrameFigures,
  type LightSum,
  type NoiseBuffers,
  type Places,
} from '@mint-tally/core';
import { FrameReader } from './frame-reader.ts';
import type { FramePlan } from './plan.ts';

/** Frames that are measured one after the other, with those before and behind them that help. */
export interface StretchTask {
  /** Real path of the shot's folder. */
  readonly folder: string;
  readonly frames: readonly FramePlan[];
  /** Places in `frames`: the first to be measured, and the one behind the last. */
  readonly from: number;
  readonly to: number;
  readonly passes: readonly string[];
  readonly convention: Convention;
  /** Between neighbours that stand together in the order, in frames. */
  readonly step: number;
}

/** What was measured of one frame of one pass. */
export interface StretchResult {
  readonly pass: string;
  readonly frame: number;
  readonly figures: FrameFigures;
  /** Numbers of the frames beside it, the nearest first. */
  readonly neighbours: readonly number[];
  /** By its halves, where there are some. */
  readonly exact: Float64Array | null;
  readonly isInteger: boolean;
  readonly hasFeatures: boolean;
  /** How the light passes sum to it, where it is the beauty. */
  readonly sum: LightSum | null;
}

interface Held {
  readonly buffers: NoiseBuffers;
  readonly sum: LightSum | null;
  readonly exact: Float64Array | null;
  readonly isInteger: boolean;
}

/** Measures a stretch of frames; only five are held at a time. Frames that cannot be read are left out. */
export function measureStretch(task: StretchTask): StretchResult[] {
  const results: StretchResult[] = [];
  const window = new StretchWindow(task);
  for (let at = task.from; at < task.to; at++) {
    for (const pass of task.passes) {
      const held = window.get(at, pass);
      if (!held) continue;
      const beside = neighboursOf(at, pass, window, task);
      const figures = measureFrame(
        held.buffers,
        beside.map(({ buffers, places }) => ({ frame: buffers, places })),
      );
      const { albedo, normal, depth } = held.buffers;
      results.push({
        pass,
        frame: task.frames[at]!.frame,
        figures,
        neighbours: beside.map(({ frame }) => frame),
        exact: held.exact,
        sum: held.sum,
        isInteger: held.isInteger,
        hasFeatures: albedo !== null || normal !== null || depth !== null,
      });
    }
    window.letGoBefore(at - 1);
  }
  return results;
}

interface Beside {
  readonly frame: number;
  readonly buffers: NoiseBuffers;
  readonly places: Places;
}

/** The frames before and after; at the ends of the range both on the one side. Without vectors there are none. */
function neighboursOf(at: number, pass: string, window: StretchWindow, { frames, step }: StretchTask): Beside[] {
  const follows = (i: number) => frames[i] !== undefined && frames[i - 1] !== undefined && frames[i]!.frame - frames[i - 1]!.frame === step;
  const own = window.get(at, pass)!.buffers;
  const get = (i: number) => {
    const held = window.get(i, pass)?.buffers ?? null;
    return held && held.width === own.width && held.height === own.height && held.motion ? held : null;
  };
  if (!own.motion) return [];
  const [before, after] = [follows(at) ? get(at - 1) : null, follows(at + 1) ? get(at + 1) : null];
  const beside: Beside[] = [];
  if (before) beside.push({ frame: frames[at - 1]!.frame, buffers: before, places: placesInPrevious(own, before) });
  if (after) beside.push({ frame: frames[at + 1]!.frame, buffers: after, places: placesInNext(own, after) });
  if (beside.length !== 1) return beside;
  const [near] = beside as [Beside];
  if (before && follows(at - 1)) {
    const far = get(at - 2);
    if (far) beside.push({ frame: frames[at - 2]!.frame, buffers: far, places: chain(near.places, placesInPrevious(before, far)) });
  } else if (after && follows(at + 2)) {
    const far = get(at + 2);
    if (far) beside.push({ frame: frames[at + 2]!.frame, buffers: far, places: chain(near.places, placesInNext(after, far)) });
  }
  return beside;
}

/** The frames around the one that is measured, read when they are first asked for. */
class StretchWindow {
  private readonly held = new Map<string, Held | null>();
  private readonly reader: FrameReader;
  private readonly task: StretchTask;

  constructor(task: StretchTask) {
    this.task = task;
    this.reader = new FrameReader(task.folder);
  }

  get(at: number, pass: string): Held | null {
    const plan = this.task.frames[at];
    if (!plan) return null;
    const known = this.held.get(`${at} ${pass}`);
    if (known !== undefined) return known;
    // All passes of a frame are read together: they may live in one file.
    for (const name of this.task.passes) this.held.set(`${at} ${name}`, this.read(plan, name));
    this.reader.forget();
    return this.held.get(`${at} ${pass}`) ?? null;
  }

  letGoBefore(at: number): void {
    for (const key of this.held.keys()) if (Number.parseInt(key, 10) < at) this.held.delete(key);
  }

  private read(plan: FramePlan, pass: string): Held | null {
    const { reader, task } = this;
    const passes = reader.passesOf(plan, pass);
    const buffers = passes && reader.buffersOf(plan, pass, task.convention);
    if (!passes || !buffers) return null;
    const halves = plan.halves && pass === plan.whole ? reader.halvesOf(plan) : null;
    const isInteger = passes.colour.frame.planes[0]!.type === 'u8' || passes.colour.frame.planes[0]!.type === 'u16';
    return {
      buffers,
      // Code values of pictures for the screen do not add up.
      sum: pass === plan.whole && !isInteger ? reader.sumOf(plan, buffers) : null,
      exact: halves && differenceOfHalves(halves[0], halves[1], buffers.alpha),
      isInteger,
    };
  }
}
