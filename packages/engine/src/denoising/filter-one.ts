import {
  filterFrame,
  lightToDenoise,
  pictureToDenoise,
  tilesAcross,
  type ColoursToDenoise,
  type Convention,
  type DecodedFrame,
  type FilteredFrame,
  type PictureToDenoise,
  type Rectangle,
} from '@mint-tally/core';
import { FrameReader } from '../assaying/frame-reader.ts';
import type { FramePlan } from '../assaying/plan.ts';
import { cropPasses, partOf, tilesOfPart } from './part.ts';

/** What is needed of a pass to write it. */
export type WrittenPass = Pick<ColoursToDenoise, 'channels' | 'holes'> & { readonly decoded: DecodedFrame };

/** A frame that has been filtered by itself, what brings it onto others, and what its file held: no more than is needed, since some are held at a time. */
export type FilteredPicture = Pick<PictureToDenoise, 'width' | 'height' | 'depth' | 'normal' | 'motion'> &
  WrittenPass &
  FilteredFrame & {
    /** Of the lights that go along with it; null of one that is not there, or does not fit. */
    readonly beside: readonly (WrittenPass | null)[];
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
  /** Lights that go along with it, by its weights. */
  readonly lights: readonly string[];
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
  const reader = new FrameReader(task.folder);
  const whole = reader.passesOf(plan, pass);
  const tiles = whole && task.sigmas[at];
  const part = whole && region && partOf(region, whole.colour.frame);
  const passes = part ? cropPasses(whole, part.outer) : whole;
  const picture = passes && pictureToDenoise(passes, convention);
  if (!whole || !picture) return null;
  const sigmas = tiles && part ? tilesOfPart(tiles, whole.colour.frame, part.outer) : (tiles ?? null);
  const unknown = () => new Float64Array(tilesAcross(picture.width) * tilesAcross(picture.height));
  const { width, height, channels, holes, depth, normal, motion } = picture;
  const lights = task.lights.map((light) => {
    const read = reader.passesOf(plan, light)?.colour;
    const colours = read && lightToDenoise(read, picture, whole.colour.frame);
    return colours ? { ...colours, decoded: read.frame } : null;
  });
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
    beside: lights.map((light) => light && { channels: light.channels, holes: light.holes, decoded: light.decoded }),
    ...filterFrame(
      picture,
      sigmas ?? unknown(),
      strength,
      plan.frame,
      lights.map((light) => light && light.colours),
    ),
  };
}
