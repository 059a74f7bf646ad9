import type { Plane } from './frame.ts';

/** Planes over samples that lie interleaved, pixel by pixel. */
export function interleavedPlanes(names: readonly string[], width: number, height: number, type: Plane['type'], data: Plane['data']): Plane[] {
  return names.map((channel, offset) => ({ channel, type, width, height, data, offset, stride: names.length }));
}

/** A code value of few bits over the full scale of 8 or 16 bits, so that the largest stays the largest. */
export function fullScale(bits: number, target: 8 | 16): (value: number) => number {
  const factor = (2 ** target - 1) / (2 ** bits - 1);
  return (value) => Math.round(value * factor);
}
