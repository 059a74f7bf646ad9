import { TILE } from './pair-noise.ts';

/** The noise of a frame's tiles of 16 x 16 pixels, row by row, and their mean luminance, NaN where nothing is measured; and where its fireflies are. */
export interface KeptTiles {
  /** Of the picture, in pixels. */
  readonly width: number;
  readonly height: number;
  readonly sigmas: Float64Array;
  readonly means: Float64Array;
  /** Places of pixels, from the upper left corner; null where they were not kept. */
  readonly fireflies: Int32Array | null;
}

/** More fireflies of a frame are not kept one by one: they are noise, and no eye goes through them. */
export const MOST_FIREFLIES = 20_000;

/** Codes of 16 bits: unknown, zero, and logarithms in steps of a thousandth of a stop. */
const UNKNOWN = 0;
const ZERO = 1;
const STEPS = 1024;
/** The smallest power of two that has a code. */
const LEAST = -24;

/** Packs tiles for the database: 16 bits each, the noise first, right to a part in a thousand. */
export function packTiles({ sigmas, means }: Pick<KeptTiles, 'sigmas' | 'means'>): Uint8Array {
  const codes = Uint16Array.from([...sigmas, ...means], codeOf);
  return new Uint8Array(codes.buffer);
}

/** Packs the places of fireflies: 32 bits each; null of more than are kept. */
export function packFireflies({ fireflies }: Pick<KeptTiles, 'fireflies'>): Uint8Array | null {
  return fireflies && fireflies.length <= MOST_FIREFLIES ? new Uint8Array(fireflies.slice().buffer) : null;
}

type Size = Pick<KeptTiles, 'width' | 'height'>;

/** @returns null when the bytes are no places of so large a picture */
export function unpackFireflies(bytes: Uint8Array, { width, height }: Size): Int32Array | null {
  if (bytes.length % 4 !== 0) return null;
  const places = new Int32Array(new Uint8Array(bytes).buffer);
  return places.every((place) => place >= 0 && place < width * height) ? places : null;
}

/** @returns null when the bytes are not those of so large a picture */
export function unpackTiles(bytes: Uint8Array, { width, height }: Size): Omit<KeptTiles, 'fireflies'> | null {
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
