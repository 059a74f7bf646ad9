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
  for (let y = 0, i = 0; y < height; y++) for (let x = 0; x < width; x++, i++) places[i] = placeAt(x + across[i]!, y + down[i]!, width, height);
  leaveOutHidden(places, frame, before);
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
  leaveOutHidden(places, frame, after);
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

/** Takes away the places of points that are hidden there: their depth or normal is another. */
function leaveOutHidden(places: Places, frame: NoiseBuffers, other: NoiseBuffers): void {
  if (frame.depth && other.depth) leaveOutOtherDepths(places, frame.depth, other.depth);
  if (!frame.normal || !other.normal) return;
  const [x, y, z] = frame.normal;
  const [otherX, otherY, otherZ] = other.normal;
  for (let i = 0; i < places.length; i++) {
    const at = places[i]!;
    if (at < 0) continue;
    const alongX = x[i]! - otherX[at]!;
    const alongY = y[i]! - otherY[at]!;
    const alongZ = z[i]! - otherZ[at]!;
    if (!(alongX * alongX + alongY * alongY + alongZ * alongZ < SAME_NORMAL)) places[i] = -1;
  }
}

function leaveOutOtherDepths(places: Places, depth: Float32Array, others: Float32Array): void {
  for (let i = 0; i < places.length; i++) {
    const at = places[i]!;
    if (at < 0) continue;
    const here = depth[i]!;
    const there = others[at]!;
    const isSame = here >= FARTHEST ? there >= FARTHEST : Math.abs(there - here) <= SAME_DEPTH * Math.abs(here);
    if (!isSame) places[i] = -1;
  }
}
