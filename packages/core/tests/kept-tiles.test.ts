import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  figuresIn,
  MOST_FIREFLIES,
  packFireflies,
  packTiles,
  sayPlace,
  tilesAcross,
  tilesIn,
  unpackFireflies,
  unpackTiles,
  worstRegions,
  type KeptTiles,
} from '../src/index.ts';

/** Tiles of a picture, each with a noise by its column and row. */
function picture(width: number, height: number, sigma: (column: number, row: number) => number): KeptTiles {
  const across = tilesAcross(width);
  const sigmas = Float64Array.from({ length: across * tilesAcross(height) }, (_, tile) => sigma(tile % across, Math.floor(tile / across)));
  return { width, height, sigmas, means: sigmas.map((value) => 10 * value), fireflies: null };
}

describe('the tiles that are kept', () => {
  it('come back right to a part in a thousand, whatever they are', () => {
    const value = fc.oneof(fc.constantFrom(0, NaN), fc.double({ min: 1e-7, max: 1e9, noNaN: true }));
    fc.assert(
      fc.property(fc.array(value, { minLength: 6, maxLength: 6 }), (values) => {
        const tiles = { width: 40, height: 20, sigmas: Float64Array.from(values), means: Float64Array.from(values).reverse() };
        const back = unpackTiles(packTiles(tiles), tiles)!;
        back.sigmas.forEach((sigma, i) => {
          if (Number.isNaN(values[i]!) || values[i] === 0) expect(sigma).toBe(values[i]);
          else expect(Math.abs(sigma / values[i]! - 1)).toBeLessThan(0.001);
        });
      }),
    );
  });

  it('are none where the bytes are those of another size', () => {
    expect(unpackTiles(new Uint8Array(20), { width: 40, height: 20 })).toBeNull();
  });

  it('of a region are those whose middle lies in it, each once, and never none', () => {
    expect(tilesIn([0, 0, 64, 32], { width: 64, height: 32 })).toEqual([0, 1, 2, 3, 4, 5, 6, 7]);
    expect(tilesIn([16, 16, 32, 16], { width: 64, height: 32 })).toEqual([5, 6]);
    expect(tilesIn([20, 20, 3, 3], { width: 64, height: 32 })).toEqual([5]);
    const side = fc.integer({ min: -50, max: 300 });
    const size = fc.integer({ min: 1, max: 300 });
    fc.assert(
      fc.property(side, side, size, size, (left, top, width, height) => {
        const tiles = tilesIn([left, top, width, height], { width: 200, height: 100 });
        expect(tiles.length).toBeGreaterThan(0);
        expect(new Set(tiles).size).toBe(tiles.length);
        expect(tiles.every((tile) => tile >= 0 && tile < tilesAcross(200) * tilesAcross(100))).toBe(true);
      }),
    );
  });

  it('give the whole picture its own figure, and a part of it that of the part', () => {
    const frame = picture(64, 32, (column) => (column === 3 ? 0.4 : 0.1));
    expect(figuresIn(frame, null, [0, 0, 64, 32]).noise).toBeCloseTo(Math.sqrt((6 * 0.01 + 2 * 0.16) / 8), 12);
    expect(figuresIn(frame, null, [48, 0, 16, 32])).toMatchObject({ noise: 0.4, meanLuminance: 4, temporalNoise: null });
    const quiet = picture(64, 32, () => 0);
    expect(figuresIn(frame, quiet, [48, 0, 16, 32]).temporalNoise).toBeCloseTo(0.4 / Math.SQRT2, 12);
    expect(
      figuresIn(
        frame,
        picture(64, 64, () => 0),
        [0, 0, 64, 32],
      ).temporalNoise,
    ).toBeNull();
    expect(
      figuresIn(
        picture(16, 16, () => NaN),
        null,
        [0, 0, 16, 16],
      ),
    ).toMatchObject({ noise: null, relativeNoise: null, meanLuminance: null });
  });

  it('know their fireflies by their places, as far as they were kept', () => {
    const size = { width: 40, height: 20 };
    const frame = { ...picture(40, 20, () => 0.1), fireflies: Int32Array.of(0, 41, 19 * 40 + 39) };
    expect(unpackFireflies(packFireflies(frame)!, size)).toEqual(frame.fireflies);
    expect(unpackFireflies(packFireflies({ fireflies: new Int32Array(0) })!, size)).toEqual(new Int32Array(0));
    expect(figuresIn(frame, null, [0, 0, 40, 20]).fireflies).toBe(3);
    expect(figuresIn(frame, null, [1, 1, 10, 10]).fireflies).toBe(1);
    expect(figuresIn(frame, null, [2, 2, 10, 10]).fireflies).toBe(0);
    expect(
      figuresIn(
        picture(40, 20, () => 0.1),
        null,
        [0, 0, 40, 20],
      ).fireflies,
    ).toBeNull();
    expect(packFireflies({ fireflies: null })).toBeNull();
    expect(packFireflies({ fireflies: new Int32Array(MOST_FIREFLIES + 1) })).toBeNull();
    expect(unpackFireflies(new Uint8Array(6), size)).toBeNull();
    expect(unpackFireflies(packFireflies({ fireflies: Int32Array.of(800) })!, size)).toBeNull();
  });

  it('name the regions that bring the most noise, with their place', () => {
    const frame = picture(160, 96, (column, row) => (column >= 7 && row <= 1 ? 0.5 : column === 0 && row === 5 ? 0.3 : 0.02));
    const [worst, next, ...rest] = worstRegions(frame);
    expect(worst).toEqual({ place: [112, 0, 48, 32], noise: 0.5 });
    expect(next).toEqual({ place: [0, 80, 16, 16], noise: 0.3 });
    expect(rest).toEqual([]);
    expect(sayPlace(worst!.place, frame)).toBe('upper right');
    expect(sayPlace(next!.place, frame)).toBe('lower left');
    expect(sayPlace([70, 40, 16, 16], frame)).toBe('middle');
    expect(worstRegions(picture(160, 96, () => 0.02))).toEqual([]);
    expect(worstRegions(picture(160, 96, () => NaN))).toEqual([]);
  });
});
