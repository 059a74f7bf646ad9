import type { NoiseBuffers } from './buffers.ts';

/** Where each pixel's point has gone in another frame, be it hidden there or not: its place, or -1 outside of the picture and where it cannot be told. */
export type Places = Int32Array;

/** Vectors say where a point came from; where it goes is found by going back from there, so many times. */
const ROUNDS = 3;

/** Places a frame earlier, by the frame's own vectors. */
export function placesInPrevious(frame: NoiseBuffers): Places {
  const { width, height, motion } = frame;
  const [across, down] = motion!;
  const places = new Int32Array(width * height);
  for (let y = 0, i = 0; y < height; y++) for (let x = 0; x < width; x++, i++) places[i] = placeAt(x + across[i]!, y + down[i]!, width, height);
  return places;
}

/** Places a frame later, by that frame's vectors. */
export function placesInNext(frame: NoiseBuffers, after: NoiseBuffers): Places {
  const { width, height } = frame;
  const [across, down] = after.motion!;
  // What moves goes on about as it came.
  const [ownAcross, ownDown] = frame.motion ?? after.motion!;
  const places = new Int32Array(width * height);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      let at = placeAt(x - ownAcross[i]!, y - ownDown[i]!, width, height);
      for (let round = 0; round < ROUNDS && at >= 0; round++) {
        const next = placeAt(x - across[at]!, y - down[at]!, width, height);
        if (next === at) break;
        at = next;
      }
      places[i] = at;
    }
  }
  return places;
}

/** Places two frames away: from one frame to the next, and from there on. */
export function chain(first: Places, second: Places): Places {
  return first.map((at) => (at < 0 ? -1 : second[at]!));
}

/** The nearest pixel; -1 outside of the picture, and where a vector is no number. */
function placeAt(x: number, y: number, width: number, height: number): number {
  if (!(x >= -0.5 && y >= -0.5 && x < width - 0.5 && y < height - 0.5)) return -1;
  return ((y + 0.5) | 0) * width + ((x + 0.5) | 0);
}
