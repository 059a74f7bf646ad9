/**
 * What the noise of a frame is measured with: planes row by row, all of one size. What a shot does not have is null,
 * and the figures say less.
 */
export interface NoiseBuffers {
  readonly width: number;
  readonly height: number;
  /** Luminance: scene-linear of floats, 0..1 of integers. NaN where the file has no number. */
  readonly luminance: Float32Array;
  /** Above 0 where the picture covers; null where all of it does. */
  readonly alpha: Float32Array | null;
  /** Luminance of the albedo. */
  readonly albedo: Float32Array | null;
  readonly normal: readonly [Float32Array, Float32Array, Float32Array] | null;
  /** Distance from the camera; beyond 1e9 nothing was met. */
  readonly depth: Float32Array | null;
  /** In pixels, right and down, from where a point is to where it was a frame earlier. */
  readonly motion: readonly [across: Float32Array, down: Float32Array] | null;
}

/** Where nothing is met, depth passes hold something beyond this. */
export const FARTHEST = 1e9;
