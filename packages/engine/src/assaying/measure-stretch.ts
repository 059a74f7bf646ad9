import {
  bandedShare,
  chain,
  differenceOfHalves,
  edgesOf,
  measureFrame,
  notesOf,
  placesInNext,
  placesInPrevious,
  readRenderNotes,
  type Convention,
  type FrameFigures,
  type LightSum,
  type NoiseBuffers,
  type PassFigures,
  type Places,
} from '@mint-tally/core';
import { FrameReader } from './frame-reader.ts';
import type { Look, Looks } from './looks.ts';
import { compareBeside, readBeside, type BesideBeauty } from './pass-beside.ts';
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
  /** Files that are looked into as well, for a count. */
  readonly looks: Looks | null;
  /** What whoever asked and all threads see: whether to stop, and how many frames have been measured. */
  readonly care: Int32Array;
}

/** Places in `care`. */
export const STOPPED = 0;
export const DONE = 1;

/** What was measured of one frame of one pass. */
export interface StretchResult {
  readonly pass: string;
  readonly frame: number;
  readonly figures: FrameFigures;
  /** Numbers of the frames beside it, the nearest first. */
  readonly neighbours: readonly number[];
  /** By its halves, where there are some. */
  readonly exact: Float64Array | null;
  readonly hasFeatures: boolean;
  /** What the file says of its rendering. */
  readonly host: string | null;
  readonly samples: number | null;
  readonly seconds: number | null;
  /** Of its file. */
  readonly bytes: number | null;
  readonly banded: number | null;
  /** How the light passes sum to it, where it is the beauty. */
  readonly sum: LightSum | null;
}

interface Held extends BesideBeauty {
  readonly sum: LightSum | null;
  readonly exact: Float64Array | null;
  readonly host: string | null;
  readonly samples: number | null;
  readonly seconds: number | null;
  readonly bytes: number | null;
  readonly banded: number | null;
}

/** A filter is the same all along: each so many frames tell how rough the noise is. */
const ROUGHNESS_EVERY = 4;

/** What a stretch gives. */
export interface StretchResults {
  readonly colours: StretchResult[];
  readonly beside: PassFigures[];
  readonly looks: Look[];
}

/** Measures a stretch of frames, or as many of it as there are until it is stopped; only five are held at a time. Frames that cannot be read are left out. */
export async function measureStretch(task: StretchTask): Promise<StretchResults> {
  const results: StretchResult[] = [];
  const beside: PassFigures[] = [];
  const looks: Look[] = [];
  const window = new StretchWindow(task);
  for (let at = task.from; at < task.to && Atomics.load(task.care, STOPPED) === 0; at++) {
    beside.push(...figuresBeside(at, window, task));
    for (const pass of task.passes) {
      const held = window.get(at, pass);
      if (!held) continue;
      const neighbours = neighboursOf(at, pass, window, task);
      const figures = measureFrame(
        held.buffers,
        neighbours.map(({ buffers, places }) => ({ frame: buffers, places })),
        held.buffers.motion ? null : unmovedBeside(at, pass, window, task),
        (at - task.from) % ROUGHNESS_EVERY === 0,
      );
      const { albedo, normal, depth } = held.buffers;
      results.push({
        pass,
        frame: task.frames[at]!.frame,
        figures,
        neighbours: neighbours.map(({ frame }) => frame),
        exact: held.exact,
        sum: held.sum,
        host: held.host,
        samples: held.samples,
        seconds: held.seconds,
        bytes: held.bytes,
        banded: held.banded,
        hasFeatures: albedo !== null || normal !== null || depth !== null,
      });
    }
    window.letGoBefore(at - 1);
    looks.push(...(await window.reader.takeLooks()));
    Atomics.add(task.care, DONE, 1);
  }
  return { colours: results, beside, looks };
}

/** Holds the other passes of a frame against its beauty. */
function figuresBeside(at: number, window: StretchWindow, { frames, step }: StretchTask): PassFigures[] {
  const plan = frames[at]!;
  const beautyOf = (i: number) => (frames[i]?.whole && frames[i]!.frame - plan.frame === (i - at) * step ? window.get(i, frames[i]!.whole!) : null);
  const own = beautyOf(at);
  if (!own) return [];
  return compareBeside(plan, own, { earlier: beautyOf(at - 2), before: beautyOf(at - 1), after: beautyOf(at + 1) });
}

interface Beside {
  readonly frame: number;
  readonly buffers: NoiseBuffers;
  readonly places: Places;
}

/** Whether a picture is shown again, to the last digit. */
const isRepeat = (one: Float32Array, other: Float32Array): boolean => Buffer.compare(bytesOf(one), bytesOf(other)) === 0;

const bytesOf = ({ buffer, byteOffset, byteLength }: Float32Array): Buffer => Buffer.from(buffer, byteOffset, byteLength);

/**
 * The frames before and after; at the ends of the range both on the one side. Without vectors there are none. A frame that is
 * shown again has the very same noise, and is passed over where there is any other.
 */
function neighboursOf(at: number, pass: string, window: StretchWindow, task: StretchTask): Beside[] {
  const own = window.get(at, pass)!.buffers;
  if (!own.motion) return [];
  const others = (isWanted: (other: NoiseBuffers) => boolean) => {
    const get = (i: number) => {
      const held = window.get(i, pass)?.buffers ?? null;
      return held && held.width === own.width && held.height === own.height && held.motion && isWanted(held) ? held : null;
    };
    return besideOf(at, own, get, task);
  };
  const changing = others(({ luminance }) => !isRepeat(luminance, own.luminance));
  return changing.length > 0 ? changing : others(() => true);
}

/** @param get gives the frame at a place of the stretch, where it can be told from */
function besideOf(at: number, own: NoiseBuffers, get: (i: number) => NoiseBuffers | null, { frames, step }: StretchTask): Beside[] {
  const follows = (i: number) => frames[i] !== undefined && frames[i - 1] !== undefined && frames[i]!.frame - frames[i - 1]!.frame === step;
  const [before, after] = [follows(at) ? get(at - 1) : null, follows(at + 1) ? get(at + 1) : null];
  const beside: Beside[] = [];
  if (before) beside.push({ frame: frames[at - 1]!.frame, buffers: before, places: placesInPrevious(own) });
  if (after) beside.push({ frame: frames[at + 1]!.frame, buffers: after, places: placesInNext(own, after) });
  if (beside.length !== 1) return beside;
  const [near] = beside as [Beside];
  if (before && follows(at - 1)) {
    const far = get(at - 2);
    if (far) beside.push({ frame: frames[at - 2]!.frame, buffers: far, places: chain(near.places, placesInPrevious(before)) });
  } else if (after && follows(at + 2)) {
    const far = get(at + 2);
    if (far) beside.push({ frame: frames[at + 2]!.frame, buffers: far, places: chain(near.places, placesInNext(after, far)) });
  }
  return beside;
}

/** The frame before, else the one after: what stands still in both is known without vectors. */
function unmovedBeside(at: number, pass: string, window: StretchWindow, { frames, step }: StretchTask): NoiseBuffers | null {
  const own = window.get(at, pass)!.buffers;
  for (const i of [at - 1, at + 1]) {
    if (!frames[i] || Math.abs(frames[i].frame - frames[at]!.frame) !== step) continue;
    const other = window.get(i, pass)?.buffers;
    if (other && other.width === own.width && other.height === own.height) return other;
  }
  return null;
}

/** The frames around the one that is measured, read when they are first asked for. */
class StretchWindow {
  private readonly held = new Map<string, Held | null>();
  readonly reader: FrameReader;
  private readonly task: StretchTask;

  constructor(task: StretchTask) {
    this.task = task;
    this.reader = new FrameReader(task.folder, task.looks);
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
    const { width, height } = buffers;
    const isWhole = pass === plan.whole;
    const notes = notesOf(passes.colour.frame.header.metadata);
    return {
      buffers,
      edges: isWhole ? edgesOf([buffers.luminance], width, height) : new Float32Array(0),
      ...(isWhole ? readBeside(reader, plan, passes.colour.frame.header, buffers) : { beside: {}, gap: null }),
      // Code values of pictures for the screen do not add up.
      sum: pass === plan.whole && !isInteger ? reader.sumOf(plan, buffers) : null,
      exact: halves && differenceOfHalves(halves[0], halves[1], buffers.alpha),
      host: notes.get('host') ?? null,
      ...readRenderNotes(passes.colour.frame.header.metadata),
      banded: passes.colour.frame.planes[0]!.type === 'u8' ? bandedShare({ width, height, values: buffers.luminance }) : null,
      bytes: reader.bytesOf(plan.colours[pass]!),
    };
  }
}
