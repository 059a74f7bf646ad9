import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { differenceOfHalves, measureFrame, noiseAlongShot, type NoiseBuffers } from '../src/index.ts';
import { WIDTH, HEIGHT, COUNT, brick, light, noiseField, frameOf, measure, shot, tilesOf } from './noisy-wall.ts';

describe('noise with less to tell it by', () => {
  it('is an upper bound without vectors, and says so', () => {
    const { frames } = measure(shot({ sigma: 0.05, vectors: false }));
    expect(frames.map(({ by, temporalNoise }) => [by, temporalNoise])).toEqual(frames.map(() => ['features', null]));
    for (const { noise } of frames) expect(noise! / 0.05).toBeGreaterThan(0.97);
  });

  // Most of a picture may be black or flat, and its noise be in a few tiles.
  it.each([1, 2, 3, 5])('of one picture in few steps is an upper bound, however little of it is noisy (%i columns of tiles)', (columns) => {
    const noise = noiseField({ sigma: 0.04, seed: 5 });
    const isLit = (i: number) => i % WIDTH < columns * 16;
    const luminance = noise.map((value, i) => (isLit(i) ? Math.round(255 * (0.4 + 0.2 * light(i % WIDTH, Math.floor(i / WIDTH)) + value)) / 255 : 0));
    const { frames } = measure([{ ...frameOf(0, { sigma: 0, features: false, vectors: false }), luminance }]);
    const truth = Math.sqrt(noise.reduce((sum, value, i) => sum + (isLit(i) ? value ** 2 : 0), 0) / COUNT);
    expect(frames[0]!.by).toBe('picture');
    expect(frames[0]!.noise! / truth).toBeGreaterThan(0.9);
    // The edge of what is lit is taken for noise as well.
    expect(frames[0]!.tiles[0]! / 0.04).toBeLessThan(1.15);
  });

  it('is unknown of black, of what nothing covers, and of pixels without a number', () => {
    const frame = frameOf(0, { sigma: 0.05 });
    const noiseOf = (change: Partial<NoiseBuffers>) => measure([{ ...frame, ...change }]).frames[0]!.noise;
    expect(noiseOf({ alpha: new Float32Array(COUNT) })).toBeNull();
    expect(noiseOf({ luminance: new Float32Array(COUNT).fill(NaN) })).toBeNull();
    expect(noiseOf({ luminance: new Float32Array(COUNT) })).toBe(0);
    // Some such pixels leave the rest as it is.
    const some = noiseOf({ luminance: frame.luminance.map((value, i) => (i % 97 === 0 ? Infinity : value)) });
    expect(Math.abs(some! / 0.05 - 1)).toBeLessThan(0.2);
  });

  it('grows with the light that it is in', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 50, noNaN: true }), (scale) => {
        const brighter = (frame: NoiseBuffers) => ({ ...frame, luminance: frame.luminance.map((value) => value * scale) });
        const [once, scaled] = [measure([frameOf(0, { sigma: 0.05 })]), measure([brighter(frameOf(0, { sigma: 0.05 }))])];
        expect(scaled.frames[0]!.noise! / once.frames[0]!.noise! / scale).toBeCloseTo(1, 2);
      }),
      { numRuns: 5 },
    );
  });
});

describe('halves of the samples', () => {
  it('tell the noise of the whole, tile by tile', () => {
    const [first, second] = [noiseField({ sigma: 0.1, seed: 1 }), noiseField({ sigma: 0.1, seed: 2 })];
    const picture = frameOf(0, { sigma: 0 }).luminance;
    const half = (noise: Float32Array) => ({ width: WIDTH, height: HEIGHT, values: picture.map((value, i) => value + noise[i]!) });
    const tiles = differenceOfHalves(half(first), half(second), null)!;
    const truth = tilesOf(first.map((value, i) => (value - second[i]!) / 2));
    tiles.forEach((sigma, tile) => expect(sigma / truth[tile]!).toBeCloseTo(1, 4));
    expect(differenceOfHalves(half(first), { width: 1, height: 1, values: new Float32Array(1) }, null)).toBeNull();
  });
});

describe('noise in time without vectors', () => {
  /** A wall without features of which the right half moves. */
  function halfMoving(number: number, speed = 3): NoiseBuffers {
    const noise = noiseField({ sigma: 0.03, seed: 4000 * (number + 1) });
    const luminance = Float32Array.from({ length: COUNT }, (_, i) => {
      const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
      return brick(x >= WIDTH / 2 ? x + number * speed : x, y) + noise[i]!;
    });
    return { width: WIDTH, height: HEIGHT, luminance, alpha: null, albedo: null, normal: null, depth: null, motion: null };
  }
  const temporal = (frames: readonly NoiseBuffers[]) =>
    noiseAlongShot(
      frames.map((frame, i) => ({ figures: measureFrame(frame, [], frames[i === 0 ? 1 : i - 1]!), neighbours: [] })),
      false,
    ).frames.map(({ temporalNoise }) => temporalNoise);

  it('is that of what stands still', () => {
    for (const value of temporal([0, 1, 2].map((number) => halfMoving(number)))) expect(value! / 0.03).toBeCloseTo(1, 1);
  });

  it('is not known where everything moves', () => {
    const moving = [0, 1, 2].map((number) => ({ ...frameOf(number, { sigma: 0.005, features: false, vectors: false }) }));
    expect(temporal(moving)).toEqual([null, null, null]);
  });

  it('is nothing where the same noise stands in both', () => {
    expect(temporal([halfMoving(0), halfMoving(0)])).toEqual([0, 0]);
  });
});
