import { describe, expect, it } from 'vitest';
import { measureFrame, placesInNext, placesInPrevious, type NoiseBuffers } from '../src/index.ts';
import { WIDTH, COUNT, generator, SPEED, light, noiseField, frameOf, measure, shot } from './noisy-wall.ts';

describe('noise over texture that moves', () => {
  it.each([0.2, 0.05, 0.01, 0.002])('of %f is found within 6 % in every frame, also in time', (sigma) => {
    const { frames, heldSeeds, wideFilter } = measure(shot({ sigma }));
    expect([heldSeeds, wideFilter]).toEqual([false, false]);
    for (const { noise, temporalNoise, by } of frames) {
      // What sampled features would take is given back, which these have not taken.
      expect(Math.abs(noise! / sigma / 1.01 - 1)).toBeLessThan(0.06);
      expect(Math.abs(temporalNoise! / sigma / 1.01 - 1)).toBeLessThan(0.06);
      expect(by).toBe('neighbours');
    }
  });

  it('is found as well in a large picture, where what pixels weigh is asked of some lines', () => {
    const sigma = 0.05;
    const frames = Array.from({ length: 3 }, (_, number) => frameOf(number, { sigma }, 880, 512));
    for (const { noise, tiles } of measure(frames).frames) {
      expect(Math.abs(noise! / sigma / 1.01 - 1)).toBeLessThan(0.02);
      // 240 pixels tell a tile's noise to a twentieth.
      const apart = Math.sqrt(tiles.reduce((sum, tile) => sum + (tile / sigma / 1.01 - 1) ** 2, 0) / tiles.length);
      expect(apart).toBeLessThan(0.09);
    }
  });

  it('is not explained away in the last lines and columns of a picture, where a tile has few pixels', () => {
    // Two lines and two columns more than whole tiles have, of which the last are not measured.
    const [sigma, width, height] = [0.05, 482, 194];
    const frames = Array.from({ length: 3 }, (_, number) => ({
      ...frameOf(number, { sigma, features: false }, width, height),
      depth: noiseField({ sigma: 0.02, seed: 900 + number }, width * height).map((noise) => 5 + noise),
      luminance: noiseField({ sigma, seed: 100 + number }, width * height).map((noise) => 0.5 + noise),
    }));
    const across = Math.ceil(width / 16);
    for (const { tiles, by } of measure(frames).frames) {
      expect(by).toBe('neighbours');
      // The corner has one pixel, which tells nothing.
      expect(tiles.map((tile) => (Number.isFinite(tile) ? 0 : 1)).reduce((a, b) => a + b)).toBe(1);
      const variances = tiles.slice(0, -1).map((tile) => (tile / sigma / 1.01) ** 2);
      const meanOf = (values: Float64Array) => values.reduce((sum, value) => sum + value, 0) / values.length;
      for (const thin of [variances.slice(1 - across), variances.filter((_, tile) => tile % across === across - 1)]) {
        expect(meanOf(thin)).toBeGreaterThan(0.7);
        expect(meanOf(thin)).toBeLessThan(1.3);
      }
    }
  });

  /** A disc before the wall, whose rim shows what neither surfaces nor other frames know. */
  const withDisc = (frames: readonly NoiseBuffers[], strength: number, seed = 500) =>
    frames.map((frame, number) => {
      const { normal } = generator(seed + number);
      const away = (i: number) => Math.hypot((i % WIDTH) + number * SPEED - 52, Math.floor(i / WIDTH) - 31) - 17;
      return {
        ...frame,
        luminance: frame.luminance.map((value, i) => (Math.abs(away(i)) < 0.8 ? value + strength * normal() : value)),
        depth: frame.depth && frame.depth.map((value, i) => (away(i) < 0 ? 3 : value)),
      };
    });

  it('is not what the rims of things show besides, where the picture is clean', () => {
    const sigma = 0.004;
    const frames = withDisc(shot({ sigma }), 0.08);
    const unknown = measure(frames.map((frame) => ({ ...frame, depth: null }))).frames;
    measure(frames).frames.forEach(({ noise }, i) => {
      // Without a depth nobody knows where its rim is.
      expect(unknown[i]!.noise! / sigma).toBeGreaterThan(2.3);
      expect(noise! / sigma).toBeGreaterThan(0.95);
      expect(noise! / sigma).toBeLessThan(1.6);
    });
  });

  it('is what leaps at the rims of things as well, where the picture is noisy', () => {
    const [sigma, strength] = [0.25, 0.9];
    const clean = shot({ sigma: 0 });
    const frames = withDisc(shot({ sigma }), strength);
    measure(frames).frames.forEach(({ noise }, number) => {
      const squares = frames[number]!.luminance.map((value, i) => (value - clean[number]!.luminance[i]!) ** 2);
      const known = Math.sqrt(squares.reduce((sum, square) => sum + square, 0) / COUNT);
      expect(known / sigma).toBeGreaterThan(1.1);
      expect(Math.abs(noise! / known / 1.01 - 1)).toBeLessThan(0.08);
    });
  });

  it('is told of what one neighbour hides by what the other shows', () => {
    const sigma = 0.004;
    // The frame before is hidden in a quarter of the picture, the one behind in another.
    const hidden = (places: Int32Array, from: number) => places.map((place, i) => (i % WIDTH >= from && i % WIDTH < from + WIDTH / 4 ? -1 : place));
    const frames = shot({ sigma }).map((frame) => ({ ...frame, albedo: null, depth: null }));
    const own = frames[2]!;
    const before = { frame: frames[1]!, places: hidden(placesInPrevious(own), 16) };
    const after = { frame: frames[3]!, places: hidden(placesInNext(own, frames[3]!), 56) };
    const { byNeighbours, known } = measureFrame(own, [before, after]);
    const [worst, worstAlone] = [byNeighbours, measureFrame(own, [before]).byNeighbours].map((variances) => Math.sqrt(Math.max(...variances)) / sigma);
    expect(worst).toBeLessThan(1.7);
    expect(worstAlone).toBeGreaterThan(5);
    expect(known[0]!.some((share) => share === 0)).toBe(true);
    expect(known[1]!.some((share) => share === 0)).toBe(true);
  });

  it.each([0.02, 0.005])('of %f is told from texture that no pass shows, which is as smooth as a wide filter makes noise', (sigma) => {
    const { frames, wideFilter } = measure(shot({ sigma }).map((frame) => ({ ...frame, albedo: null })));
    expect(wideFilter).toBe(false);
    // Taken for held it would be several times as much.
    for (const { noise } of frames) expect(Math.abs(noise! / sigma - 1)).toBeLessThan(0.35);
  });

  it('that features share is noise all the same, where there is more of it than structure', () => {
    const [own, shared] = [0.4, 0.25];
    const frames = shot({ sigma: own }).map((frame, number) => {
      const error = noiseField({ sigma: shared, seed: 900 + number });
      const lit = (i: number) => light((i % WIDTH) + number * SPEED, Math.floor(i / WIDTH));
      // What is met at a sample is seen in the picture and in the albedo.
      return { ...frame, albedo: frame.albedo!.map((value, i) => value + error[i]!), luminance: frame.luminance.map((value, i) => value + lit(i) * error[i]!) };
    });
    const lights = Float32Array.from({ length: COUNT }, (_, i) => light(i % WIDTH, Math.floor(i / WIDTH)) ** 2);
    const truth = Math.sqrt(own ** 2 + shared ** 2 * (lights.reduce((sum, value) => sum + value, 0) / COUNT));
    for (const { noise } of measure(frames).frames) {
      expect(Math.abs(noise! / truth - 1)).toBeLessThan(0.06);
      // The features alone would explain a tenth of it.
      expect(own / truth).toBeLessThan(0.92);
    }
  });

  it('is found where it is: tiles stand in its order', () => {
    const sigmas = Float32Array.from({ length: COUNT }, (_, i) => 0.01 + 0.004 * Math.floor((i % WIDTH) / 16));
    const frames = shot({ sigma: 1 }).map((frame, number) => {
      const noise = noiseField({ sigma: 1, seed: 100 + number });
      return { ...frame, luminance: frame.luminance.map((value, i) => value + noise[i]! * (sigmas[i]! - 1)) };
    });
    for (const { tiles } of measure(frames).frames) {
      const columns = Array.from({ length: 6 }, (_, column) => [0, 1, 2, 3].reduce((sum, row) => sum + tiles[row * 6 + column]!, 0));
      expect([...columns].sort((a, b) => a - b)).toEqual(columns);
    }
  });

  it('is none where there is none, and that counts', () => {
    const isEmpty = (i: number) => i % WIDTH >= WIDTH / 2;
    const frames = shot({ sigma: 0.05 }).map((frame) => ({
      ...frame,
      luminance: frame.luminance.map((value, i) => (isEmpty(i) ? 0.5 : value)),
      albedo: frame.albedo!.map((value, i) => (isEmpty(i) ? 0 : value)),
    }));
    for (const { noise, tiles } of measure(frames).frames) {
      expect([4, 5, 10, 11].map((tile) => tiles[tile])).toEqual([0, 0, 0, 0]);
      expect(Math.abs(noise! / (0.05 * Math.sqrt(0.5)) / 1.03 - 1)).toBeLessThan(0.1);
    }
  });

  it('is recognised where seeds are held', () => {
    const { frames, heldSeeds } = measure(shot({ sigma: 0.05, seed: 7 }));
    expect(heldSeeds).toBe(true);
    for (const { noise, by } of frames) {
      expect(Math.abs(noise! / 0.05 / 1.03 - 1)).toBeLessThan(0.3);
      expect(by).toBe('features');
    }
  });

  it.each([0, 0.3])('is not taken for held where a texture that no pass shows goes on by %f pixels', (speed) => {
    const sigma = 0.005;
    const texture = (x: number, y: number) => 0.5 + 0.03 * Math.sin(x * 1.5 + Math.sin(y * 0.31)) * Math.cos(y * 1.4);
    const made = (seedOf: (number: number) => number, from: number) =>
      Array.from({ length: 5 }, (_, number) => ({
        ...frameOf(number, { sigma, features: false }),
        luminance: noiseField({ sigma, seed: seedOf(number) }).map((noise, i) => {
          const x = i % WIDTH;
          return noise + (x < from ? 0.5 : texture(x + number * speed, Math.floor(i / WIDTH)));
        }),
        depth: new Float32Array(COUNT).fill(5),
        motion: [new Float32Array(COUNT).fill(speed), new Float32Array(COUNT)] as const,
      }));
    const { heldSeeds, frames } = measure(made((number) => 100 + number, 0));
    expect(heldSeeds).toBe(false);
    // Taken for held it would be several times as much.
    for (const { noise } of frames) expect(Math.abs(noise! / sigma - 1)).toBeLessThan(0.35);
    // Held noise goes together as well, but wherever there is no texture it is as rough as noise is.
    expect(measure(made(() => 7, 32)).heldSeeds).toBe(true);
  });

  it('is recognised behind a wide filter, and corrected for', () => {
    const field = noiseField({ sigma: 0.05, seed: 101, beside: 0.5 });
    const truth = Math.sqrt(field.reduce((sum, value) => sum + value * value, 0) / COUNT);
    const { frames, wideFilter, joinedPixels } = measure(shot({ sigma: 0.05, beside: 0.5 }));
    expect(wideFilter).toBe(true);
    // A pixel keeps 6 / 16 of the variance along each side, a mean all of it.
    expect(Math.abs(joinedPixels / (16 / 6) ** 2 - 1)).toBeLessThan(0.25);
    expect(measure(shot({ sigma: 0.05 })).joinedPixels).toBe(1);
    for (const { noise } of frames) expect(Math.abs(noise! / truth - 1)).toBeLessThan(0.15);
  });

  // As narrow as a bell of 1.5 pixels, and as wide as one of 3.
  it.each([0.06, 0.1, 0.15, 0.2, 0.3, 0.45])('is found behind a filter in which each neighbour counts for %f', (beside) => {
    const sigma = 0.05;
    const shown = Array.from({ length: 3 }, (_, number) => frameOf(number, { sigma, beside }, 320, 192));
    const { frames, joinedPixels } = measure(shown);
    for (const { noise } of frames) expect(Math.abs(noise! / sigma - 1)).toBeLessThan(0.08);
    const joined = ((1 + 2 * beside) ** 2 / (1 + 2 * beside ** 2)) ** 2;
    expect(Math.abs(joinedPixels / joined - 1)).toBeLessThan(0.2);
    // Where no pass shows the texture the frames beside it do.
    const unknown = measure(shown.map((frame) => ({ ...frame, albedo: null })));
    for (const { noise } of unknown.frames) expect(Math.abs(noise! / sigma - 1)).toBeLessThan(0.25);
  });
});
