import { aligned, room } from './memory.ts';

/** Mean over the (2r+1) x (2r+1) pixels around each; at the borders over those that are there. */
export function boxMean(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  const size = aligned(plane.byteLength);
  const { exports, start, bytes } = room(3 * size + aligned(width * 8));
  const floats = new Float32Array(bytes.buffer);
  const [across, out, sums] = [start + size, start + 2 * size, start + 3 * size];
  floats.set(plane, start / 4);
  exports.boxMeans(start, width, height, radius, across, sums, out);
  return floats.slice(out / 4, out / 4 + plane.length);
}
