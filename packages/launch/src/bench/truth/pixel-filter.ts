import type { RenderedFrame } from '@mint-tally/standin-farm';

/** Colours of some passes, in as many components. */
const STRIDES = { beauty: 4, half1: 4, half2: 4, diffuse: 3, specular: 3, transmission: 3, emission: 3, albedo: 3, normal: 3 } as const;
export type FilteredPass = keyof typeof STRIDES;

/**
 * Joins neighbouring pixels of passes, as a renderer's wider filter does; the alpha of a picture stays.
 *
 * @param beside what each neighbour along a line and a column counts for, beside the pixel itself: half for [1 2 1] x [1 2 1] / 16
 */
export function filtered(frame: RenderedFrame, beside: number, passes: readonly FilteredPass[]): RenderedFrame {
  if (beside === 0) return frame;
  const { width, height } = frame;
  /** @param apart from a pixel to those joined with it, along a side of `size` pixels */
  const joined = (values: Float32Array, stride: number, apart: number, size: number) =>
    values.map((value, at) => {
      if (at % stride === 3) return value;
      const place = Math.floor(at / stride / apart) % size;
      const before = place === 0 ? value : values[at - apart * stride]!;
      const after = place === size - 1 ? value : values[at + apart * stride]!;
      return (value + beside * (before + after)) / (1 + 2 * beside);
    });
  const both = (values: Float32Array, stride: number) => joined(joined(values, stride, 1, width), stride, width, height);
  return { ...frame, ...Object.fromEntries(passes.map((name) => [name, both(frame[name], STRIDES[name])])) };
}
