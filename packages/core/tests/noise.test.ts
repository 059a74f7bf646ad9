import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { differenceOfHalves, measureFrame, noiseAlongShot, placesInNext, placesInPrevious, type NoiseBuffers } from '../src/index.ts';

const [WIDTH, HEIGHT] = [96, 64];
const COUNT = WIDTH * HEIGHT;

/** Numbers spread evenly over 0..1, and normally around 0. */
function generator(seed: number) {
  let state = seed >>> 0;
  const even = () => {
    state = (Math.imul(state ^ (state >>> 15), 0x2c1b3c6d) + 0x9e3779b9) >>> 0;
    return ((state ^ (state >>> 13)) >>> 0) / 2 ** 32;
  };
  return { even, normal: () => Math.sqrt(-2 * Math.log(1 - even())) * Math.cos(2 * Math.PI * even()) };
}

/** A wall of small bricks that the camera goes along, so many pixels a frame, lit from one side. */
const SPEED = 2;
const brick = (x: number, y: number) => 0.3 + 0.25 * (((x >> 2) + (y >> 3)) % 3) + 0.1 * Math.sin(x * 1.7 + y * 0.9);
const light = (x: number, y: number) => 0.6 + 0.4 * Math.sin(x / 40) * Math.cos(y / 30);

interface Look {
  readonly sigma: number;
  readonly seed?: number;
  /** Joins neighbouring pixels of the noise. */
  readonly wide?: boolean;
  readonly features?: boolean;
  readonly vectors?: boolean;
}

function noiseField({ sigma, seed = 1, wide = false }: Look, count = COUNT): Float32Array {
  const { normal } = generator(seed);
  const white = Float32Array.from({ length: count }, () => sigma * normal());
  if (!wide) return white;
  const blurred = new Float32Array(COUNT);
  const weights = [1, 2, 1, 2, 4, 2, 1, 2, 1].map((weight) => weight / 6);
  for (let y = 1; y < HEIGHT - 1; y++)
    for (let x = 1; x < WIDTH - 1; x++)
      weights.forEach((weight, i) => (blurred[y * WIDTH + x]! += weight * white[(y + Math.floor(i / 3) - 1) * WIDTH + x + (i % 3) - 1]!));
  return blurred;
}

function frameOf(number: number, look: Look, width = WIDTH, height = HEIGHT): NoiseBuffers {
  const { features = true, vectors = true } = look;
  const count = width * height;
  const at = (of: (x: number, y: number) => number) => Float32Array.from({ length: count }, (_, i) => of((i % width) + number * SPEED, Math.floor(i / width)));
  const noise = noiseField({ ...look, seed: look.seed ?? 100 + number }, count);
  const albedo = at(brick);
  return {
    width,
    height,
    luminance: albedo.map((value, i) => value * light((i % width) + number * SPEED, Math.floor(i / width)) + noise[i]!),
    alpha: null,
    albedo: features ? albedo : null,
    normal: null,
    depth: features ? at(() => 5) : null,
    motion: vectors ? [new Float32Array(count).fill(SPEED), new Float32Array(count)] : null,
  };
}

function measure(frames: readonly NoiseBuffers[], isInteger = false) {
  const measured = frames.map((frame, i) => {
    const beside = frame.motion
      ? [
          ...(i > 0 ? [{ at: i - 1, frame: frames[i - 1]!, places: placesInPrevious(frame) }] : []),
          ...(i < frames.length - 1 ? [{ at: i + 1, frame: frames[i + 1]!, places: placesInNext(frame, frames[i + 1]!) }] : []),
        ]
      : [];
    return { figures: measureFrame(frame, beside), neighbours: beside.map(({ at }) => at) };
  });
  return noiseAlongShot(measured, frames[0]!.albedo !== null, isInteger);
}

const shot = (look: Look) => Array.from({ length: 5 }, (_, number) => frameOf(number, look));
const tilesOf = (field: Float32Array) =>
  Array.from({ length: 24 }, (_, tile) => {
    let sum = 0;
    for (let i = 0; i < 256; i++) sum += field[((Math.floor(tile / 6) * 16 + (i >> 4)) * WIDTH + (tile % 6) * 16 + (i & 15)) as number]! ** 2;
    return Math.sqrt(sum / 256);
  });

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
    for (const { noise } of frames) expect(Math.abs(noise! / 0.05 / 1.03 - 1)).toBeLessThan(0.3);
  });

  it('is recognised behind a wide filter, and corrected for', () => {
    const field = noiseField({ sigma: 0.05, seed: 101, wide: true });
    const truth = Math.sqrt(field.reduce((sum, value) => sum + value * value, 0) / COUNT);
    const { frames, wideFilter } = measure(shot({ sigma: 0.05, wide: true }));
    expect(wideFilter).toBe(true);
    for (const { noise } of frames) expect(Math.abs(noise! / truth - 1)).toBeLessThan(0.15);
  });
});

describe('noise with less to tell it by', () => {
  it('is an upper bound without vectors, and says so', () => {
    const { frames } = measure(shot({ sigma: 0.05, vectors: false }));
    expect(frames.map(({ by, temporalNoise }) => [by, temporalNoise])).toEqual(frames.map(() => ['features', null]));
    for (const { noise } of frames) expect(noise! / 0.05).toBeGreaterThan(0.97);
  });

  it('of one picture in few steps is not taken from its texture', () => {
    const plain = { ...frameOf(0, { sigma: 0.02, features: false, vectors: false }) };
    const smooth = plain.luminance.map((_, i) => 0.5 + 0.3 * light(i % WIDTH, Math.floor(i / WIDTH)));
    const noise = noiseField({ sigma: 0.02, seed: 5 });
    // One tile shows a grid.
    const luminance = smooth.map((value, i) => value + noise[i]! + (i % WIDTH < 16 && Math.floor(i / WIDTH) < 16 && i % 2 === 0 ? 0.3 : 0));
    const { frames } = measure([{ ...plain, luminance }], true);
    expect(Math.abs(frames[0]!.noise! / 0.02 - 1)).toBeLessThan(0.12);
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
