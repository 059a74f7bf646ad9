import { FARTHEST, type NoiseBuffers } from './buffers.ts';

/** Where each pixel's point stands in another frame: the pixel's place there, or -1 where it cannot be seen or told. */
export type Places = Int32Array;

/** Depth may differ by this share, and normals by this squared distance, before a point counts as another one. */
const SAME_DEPTH = 0.05;
const SAME_NORMAL = 0.5;
/** Vectors say where a point came from; where it goes is found by going back from there, so many times. */
const ROUNDS = 3;

/** Places a frame earlier, by the frame's own vectors. */
export function placesInPrevious(frame: NoiseBuffers, before: NoiseBuffers): Places {
  const { width, height, motion } = frame;
  const [across, down] = motion!;
  const places = new Int32Array(width * height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) places[i] = unlessHidden(frame, i, before, placeAt(x + across[i]!, y + down[i]!, width, height));
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
      for (let round = 0; round < ROUNDS && at >= 0; round++) at = placeAt(x - across[at]!, y - down[at]!, width, height);
      places[i] = unlessHidden(frame, i, after, at);
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
  const column = Math.round(x);
  const row = Math.round(y);
  return column >= 0 && row >= 0 && column < width && row < height ? row * width + column : -1;
}

function unlessHidden(frame: NoiseBuffers, i: number, other: NoiseBuffers, at: number): number {
  if (at < 0) return -1;
  if (frame.depth && other.depth) {
    const here = frame.depth[i]!;
    const there = other.depth[at]!;
    const isSame = here >= FARTHEST ? there >= FARTHEST : Math.abs(there - here) <= SAME_DEPTH * Math.abs(here);
    if (!isSame) return -1;
  }
  if (frame.normal && other.normal) {
    const [x, y, z] = frame.normal;
    const [otherX, otherY, otherZ] = other.normal;
    const distance = (x[i]! - otherX[at]!) ** 2 + (y[i]! - otherY[at]!) ** 2 + (z[i]! - otherZ[at]!) ** 2;
    if (!(distance < SAME_NORMAL)) return -1;
  }
  return at;
}
