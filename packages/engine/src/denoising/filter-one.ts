import {
  filterFrame,
  pictureToDenoise,
  tilesAcross,
  type Convention,
  type DecodedFrame,
  type FilteredFrame,
  type PictureToDenoise,
  type Rectangle,
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

/** Filters the frame at a place by itself; null where it is not there, or cannot be read. */
export function filterOne(task: FilterTask, at: number): FilteredPicture | null {
  const { pass, convention, strength, region, isTest } = task;
  const plan = task.frames[at]!;
  const whole = new FrameReader(task.folder).passesOf(plan, pass);
  const tiles = whole && task.sigmas[at];
  const part = whole && region && partOf(region, whole.colour.frame);
  const passes = part ? cropPasses(whole, part.outer) : whole;
  const picture = passes && pictureToDenoise(passes, convention);
  if (!picture) return null;
  const sigmas = tiles && part ? tilesOfPart(tiles, whole.colour.frame, part.outer) : (tiles ?? null);
  const unknown = () => new Float64Array(tilesAcross(picture.width) * tilesAcross(picture.height));
  const { width, height, channels, holes, depth, normal, motion } = picture;
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
    ...filterFrame(picture, sigmas ?? unknown(), strength, plan.frame),
  };
}
