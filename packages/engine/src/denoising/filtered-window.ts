import {
  filterFrame,
  further,
  pictureToDenoise,
  tilesAcross,
  trailAfter,
  trailBefore,
  type Companion,
  type Convention,
  type DecodedFrame,
  type FilteredFrame,
  type PictureToDenoise,
  type Rectangle,
  type Trail,
} from '@mint-tally/core';
import { FrameReader } from '../assaying/frame-reader.ts';
import type { FramePlan } from '../assaying/plan.ts';
import { cropPasses, partOf, tilesOfPart } from './part.ts';

/** A frame that has been filtered by itself, what brings it onto others, and what its file held: no more than is needed, since some are held at a time. */
export type FilteredPicture = Pick<PictureToDenoise, 'width' | 'height' | 'channels' | 'holes' | 'depth' | 'normal' | 'motion'> &
  FilteredFrame & {
    readonly decoded: DecodedFrame;
    /** Which part of the picture it is, and the part of that which is wanted; null for all of it. */
    readonly outer: Rectangle | null;
    readonly inner: Rectangle | null;
    /** Of the tiles of what is filtered; null where it could not be measured. */
    readonly sigmas: Float64Array | null;
    /** What it was before, where that is wanted. */
    readonly original: PictureToDenoise | null;
  };

/** Frames that are filtered, and what is known of them. */
export interface FilterTask {
  /** Real path of the shot's folder. */
  readonly folder: string;
  readonly frames: readonly FramePlan[];
  /** Noise of each frame's tiles; null where it could not be measured. */
  readonly sigmas: readonly (Float64Array | null)[];
  readonly pass: string;
  readonly convention: Convention;
  readonly strength: number;
  /** Between frames that stand together in the order. */
  readonly step: number;
  /** First frames after a cut: what is before them shows something else. */
  readonly cuts: readonly number[];
  /** The part that is filtered: left, top, width and height, on the bounds of tiles; null for all of it. */
  readonly region: Rectangle | null;
  /** Whether what is done is held against what was there. */
  readonly isTest: boolean;
}

/** Frames that have been filtered by themselves, each once, while its neighbours need it. */
export class FilteredWindow {
  private readonly held = new Map<number, FilteredPicture | null>();
  private readonly reader: FrameReader;
  private readonly task: FilterTask;
  /** Asked before each frame is filtered. */
  private readonly beforeEach: () => void;
  /** Frames that have been filtered. */
  filtered = 0;

  constructor(task: FilterTask, beforeEach: () => void = () => undefined) {
    this.task = task;
    this.beforeEach = beforeEach;
    this.reader = new FrameReader(task.folder);
  }

  /** The frame at a place; null where it is not there, or cannot be read. */
  get(at: number): FilteredPicture | null {
    const plan = this.task.frames[at];
    if (!plan) return null;
    let found = this.held.get(at);
    if (found === undefined) this.held.set(at, (found = this.filter(plan, at)));
    return found;
  }

  letGoBefore(at: number): void {
    for (const key of this.held.keys()) if (key < at) this.held.delete(key);
  }

  /** The frames before and after that go along with one, as many as there are up to a gap, a cut, or the end. */
  companionsOf(at: number, reach: number): Companion[] {
    const own = this.get(at);
    if (!own?.motion) return [];
    return [...this.along(own, at, -1, reach), ...this.along(own, at, 1, reach)];
  }

  /** The frame before one; null where none goes along with it. */
  beforeOf(at: number): Companion | null {
    const own = this.get(at);
    return own?.motion ? (this.along(own, at, -1, 1)[0] ?? null) : null;
  }

  private along(own: FilteredPicture, at: number, side: 1 | -1, reach: number): Companion[] {
    const companions: Companion[] = [];
    let [near, trail]: [FilteredPicture, Trail | null] = [own, null];
    for (let k = 1; k <= reach; k++) {
      const place = at + side * k;
      const frame = this.isJoined(Math.min(place, place - side)) ? this.get(place) : null;
      if (!frame?.motion || frame.width !== own.width || frame.height !== own.height) break;
      const step = side < 0 ? trailBefore(near.motion!, own) : trailAfter(near.motion!, frame.motion, own);
      trail = trail ? further(trail, step, own) : step;
      companions.push({ frame, trail });
      near = frame;
    }
    return companions;
  }

  /** Whether a frame and the one behind it follow each other. */
  private isJoined(at: number): boolean {
    const { frames, step, cuts } = this.task;
    const [first, second] = [frames[at], frames[at + 1]];
    return first !== undefined && second !== undefined && second.frame - first.frame === step && !cuts.includes(second.frame);
  }

  private filter(plan: FramePlan, at: number): FilteredPicture | null {
    this.beforeEach();
    const { pass, convention, strength, region, isTest } = this.task;
    const whole = this.reader.passesOf(plan, pass);
    this.reader.forget();
    const tiles = whole && this.task.sigmas[at];
    const part = whole && region && partOf(region, whole.colour.frame);
    const passes = part ? cropPasses(whole, part.outer) : whole;
    const picture = passes && pictureToDenoise(passes, convention);
    if (!picture) return null;
    const sigmas = tiles && part ? tilesOfPart(tiles, whole.colour.frame, part.outer) : (tiles ?? null);
    const unknown = () => new Float64Array(tilesAcross(picture.width) * tilesAcross(picture.height));
    const filtered = filterFrame(picture, sigmas ?? unknown(), strength, plan.frame);
    const { width, height, channels, holes, depth, normal, motion } = picture;
    this.filtered++;
    return {
      width,
      height,
      channels,
      holes,
      depth,
      normal,
      motion,
      decoded: passes.colour.frame,
      outer: part?.outer ?? null,
      inner: part?.inner ?? null,
      sigmas,
      original: isTest ? picture : null,
      ...filtered,
    };
  }
}
