import { further, trailAfter, trailBefore, type Companion, type Trail } from '@mint-tally/core';
import type { FilteredPicture, FilterTask } from './filter-one.ts';

/** Frames that have been filtered, by their places; null where one is not there, or could not be read. */
export type FilteredPictures = ReadonlyMap<number, FilteredPicture | null>;

/** Which frames follow each other. */
type Row = Pick<FilterTask, 'frames' | 'step' | 'cuts'>;

/** The places of a frame and of those that may go along with it: on either side as many as there are up to a gap, a cut, or the end. */
export function placesAround(row: Row, at: number, reach: number): number[] {
  const moves = (place: number) => row.frames[place]?.features.motion != null;
  const along = (side: 1 | -1) => {
    const places: number[] = [];
    for (let place = at + side; places.length < reach && isJoined(row, Math.min(place, place - side)) && moves(place); place += side) places.push(place);
    return places;
  };
  return moves(at) ? [...along(-1).reverse(), at, ...along(1)] : [at];
}

/** The frames before and after that go along with one. */
export function companionsOf(row: Row, pictures: FilteredPictures, at: number, reach: number): Companion[] {
  const own = pictures.get(at);
  if (!own?.motion) return [];
  return [...along(row, pictures, own, at, -1, reach), ...along(row, pictures, own, at, 1, reach)];
}

function along(row: Row, pictures: FilteredPictures, own: FilteredPicture, at: number, side: 1 | -1, reach: number): Companion[] {
  const companions: Companion[] = [];
  let [near, trail]: [FilteredPicture, Trail | null] = [own, null];
  for (let k = 1; k <= reach; k++) {
    const place = at + side * k;
    const frame = isJoined(row, Math.min(place, place - side)) ? pictures.get(place) : null;
    if (!frame?.motion || frame.width !== own.width || frame.height !== own.height) break;
    const step = side < 0 ? trailBefore(near.motion!, own) : trailAfter(near.motion!, frame.motion, own);
    trail = trail ? further(trail, step, own) : step;
    companions.push({ frame, trail });
    near = frame;
  }
  return companions;
}

/** Whether a frame and the one behind it follow each other. */
export function isJoined({ frames, step, cuts }: Row, at: number): boolean {
  const [first, second] = [frames[at], frames[at + 1]];
  return first !== undefined && second !== undefined && second.frame - first.frame === step && !cuts.includes(second.frame);
}
