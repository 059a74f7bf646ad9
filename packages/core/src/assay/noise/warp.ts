import { placesAfter, placesBefore } from '../../kernels/index.ts';
import type { NoiseBuffers } from './buffers.ts';

/** Where each pixel's point has gone in another frame, be it hidden there or not: its place, or -1 outside of the picture and where it cannot be told. */
export type Places = Int32Array;

/** Places a frame earlier, by the frame's own vectors. */
export function placesInPrevious({ width, height, motion }: NoiseBuffers): Places {
  return placesBefore(motion!, width, height);
}

/** Places a frame later, by that frame's vectors. */
export function placesInNext(frame: NoiseBuffers, { motion }: NoiseBuffers): Places {
  return placesAfter(motion!, frame.motion ?? motion!, frame.width, frame.height);
}

/** Places two frames away: from one frame to the next, and from there on. */
export function chain(first: Places, second: Places): Places {
  return first.map((at) => (at < 0 ? -1 : second[at]!));
}
