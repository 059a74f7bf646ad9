import { aligned, room } from './memory.ts';

/** The high-pass [1 -2 1] x [1 -2 1] / 6; the outermost ring of pixels is zero. */
export function highPassed(plane: Float32Array, width: number, height: number): Float32Array {
  const size = aligned(plane.byteLength);
  const { exports, start, bytes } = room(2 * size + aligned((width + 4) * 4));
  const out = start + size;
  bytes.set(new Uint8Array(plane.buffer, plane.byteOffset, plane.byteLength), start);
  bytes.fill(0, out, out + plane.byteLength);
  exports.highPass(start, width, height, out + size, out);
  return new Float32Array(bytes.buffer, out, plane.length).slice();
}
