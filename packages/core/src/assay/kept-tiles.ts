import { TILE } from './pair-noise.ts';

/** The noise of a frame's tiles of 16 x 16 pixels, row by row, and their mean luminance; NaN where nothing is measured. */
export interface KeptTiles {
  /** Of the picture, in pixels. */
  readonly width: number;
  readonly height: number;
  readonly sigmas: Float64Array;
  readonly means: Float64Array;
}

/** Codes of 16 bits: unknown, zero, and logarithms in steps of a thousandth of a stop. */
const UNKNOWN = 0;
const ZERO = 1;
const STEPS = 1024;
/** The smallest power of two that has a code. */
const LEAST = -24;

/** Packs tiles for the database: 16 bits each, the noise first, right to a part in a thousand. */
export function packTiles({ sigmas, means }: KeptTiles): Uint8Array {
  const codes = Uint16Array.from([...sigmas, ...means], codeOf);
  return new Uint8Array(codes.buffer);
}

/** @returns null when the bytes are not those of so large a picture */
export function unpackTiles(bytes: Uint8Array, { width, height }: { readonly width: number; readonly height: number }): KeptTiles | null {
  const count = tilesAcross(width) * tilesAcross(height);
  if (bytes.length !== count * 4) return null;
  const codes = new Uint16Array(new Uint8Array(bytes).buffer);
  const values = Float64Array.from(codes, valueOf);
  return { width, height, sigmas: values.subarray(0, count), means: values.subarray(count) };
}

/** Tiles along a side of so many pixels. */
export const tilesAcross = (pixels: number) => Math.ceil(pixels / TILE);

function codeOf(value: number): number {
  if (!Number.isFinite(value)) return UNKNOWN;
  // Less light than nothing is none.
  if (value <= 0) return ZERO;
  return Math.min(65535, Math.max(ZERO + 1, Math.round((Math.log2(value) - LEAST) * STEPS) + ZERO + 1));
}

function valueOf(code: number): number {
  if (code === UNKNOWN) return NaN;
  return code === ZERO ? 0 : 2 ** ((code - ZERO - 1) / STEPS + LEAST);
}
