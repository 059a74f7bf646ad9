import { describe, expect, it } from 'vitest';
import { bandedShare } from '../src/index.ts';

const [WIDTH, HEIGHT] = [128, 64];
/** A number from -0.5 to 0.5 for a pixel, always the same. */
const random = (i: number) => {
  const value = Math.sin(i * 12.9898) * 43758.5453;
  return value - Math.floor(value) - 0.5;
};
/** A picture of 8 bits: a slope of so many code values in 32 pixels, rounded, with noise of so many before. */
const picture = (codes: number, noise: number) => ({
  width: WIDTH,
  height: HEIGHT,
  values: Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => Math.round(60 + ((i % WIDTH) / 31) * codes + noise * Math.sqrt(12) * random(i)) / 255),
});

describe('soft gradients of 8 bits', () => {
  it('stand in steps where they are rounded as they are', () => {
    for (const codes of [3, 4, 6]) expect(bandedShare(picture(codes, 0))).toBe(1);
  });

  it('do not where noise of half a code value went before', () => {
    for (const codes of [3, 4, 6]) expect(bandedShare(picture(codes, 0.5))).toBe(0);
  });

  it('are none where all is one colour, where the slope is steep, and where the picture has texture', () => {
    expect(bandedShare(picture(0, 0))).toBe(0);
    expect(bandedShare(picture(30, 0))).toBe(0);
    expect(bandedShare(picture(4, 6))).toBe(0);
    expect(bandedShare({ width: 8, height: 8, values: new Float32Array(64) })).toBeNull();
  });
});
