/** A picture to write in a format that has no names for its channels: samples interleaved pixel by pixel, row by row. */
export interface InterleavedPicture {
  readonly width: number;
  readonly height: number;
  /** 1 grey, 2 grey and alpha, 3 RGB, 4 RGBA. */
  readonly samplesPerPixel: 1 | 2 | 3 | 4;
  /** Code values over the full scale of 8 or 16 bits, floats, or halves as their 16 bits. */
  readonly data: Uint8Array | Uint16Array | Float32Array;
  /** Whether 16 bits are halves. */
  readonly isHalf?: boolean;
  /** How its alpha is meant, where it has one and the format has words for it. */
  readonly alphaKind?: 'straight' | 'premultiplied';
  /** Width of a pixel over its height; 1 where it is not given. */
  readonly pixelAspect?: number;
  /** What is noted besides, as far as the format has a place for it. */
  readonly notes?: Readonly<Record<string, string>>;
}

/** A pixel's shape as a fraction of whole numbers. */
export function aspectFraction(aspect: number): [across: number, down: number] {
  const SCALE = 10_000;
  return Number.isInteger(aspect) ? [aspect, 1] : [Math.round(aspect * SCALE), SCALE];
}
