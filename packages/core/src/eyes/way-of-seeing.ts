import { partsWithin, type Sight } from './sight.ts';

/** How a picture stands on the screen. */
export interface Showing {
  readonly playing: boolean;
  /** The ordered rate, neither slower nor faster, and every frame. */
  readonly atOrderedRate: boolean;
  /** The pass itself, all its channels: nothing compared, no false colours. */
  readonly isItself: boolean;
  /** Pixels of the screen for each of the file's, the smaller of across and down. */
  readonly zoom: number;
  /** What is visible of the frame: left, top, right and bottom as shares of its width and height. */
  readonly visible: readonly [number, number, number, number];
}

/** Why what is seen is not recorded, or not as watched. */
export type NotWatched = 'not itself' | 'other rate' | 'smaller' | 'standing';

/** As what a frame is recorded that stands on the screen like this, and what keeps it from being watched. */
export function wayOfSeeing({ playing, atOrderedRate, isItself, zoom, visible }: Showing): {
  readonly seen: Pick<Sight, 'way' | 'parts'> | null;
  readonly why: NotWatched | null;
} {
  if (!isItself) return { seen: null, why: 'not itself' };
  const parts = partsWithin(visible);
  if (!playing) return { seen: { way: 'stepped', parts }, why: 'standing' };
  if (!atOrderedRate) return { seen: null, why: 'other rate' };
  // A thousandth below is what numbers that were rounded leave.
  if (zoom < 0.999) return { seen: { way: 'fitted', parts }, why: 'smaller' };
  return { seen: { way: 'full', parts }, why: null };
}
