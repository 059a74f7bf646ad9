import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { measureFrame, type NoiseBuffers } from '../src/index.ts';
import { fitPicture } from '../src/kernels/index.ts';
import { generator, measure } from './noisy-wall.ts';

const [WIDTH, HEIGHT] = [160, 96];
const COUNT = WIDTH * HEIGHT;
const BRIGHTNESS = 1.4;

/** Where samples fall in a pixel: anywhere, or each in a part of its own. */
type Spread = (samples: number, even: () => number) => readonly (readonly [number, number])[];
const anywhere: Spread = (samples, even) => Array.from({ length: samples }, () => [even(), even()]);
const inCells: Spread = (samples, even) => {
  const side = Math.sqrt(samples);
  return Array.from({ length: samples }, (_, i) => [((i % side) + even()) / side, (Math.floor(i / side) + even()) / side]);
};
const inTheMiddle: Spread = () => [[0.5, 0.5]];
const everywhere: Spread = () => EVERYWHERE;
const EVERYWHERE = Array.from({ length: 400 }, (_, i) => [((i % 20) + 0.5) / 20, (Math.floor(i / 20) + 0.5) / 20] as const);

/** Cards of two greys that lie aslant on a table, as they stand at some moment. */
function cards(x: number, y: number): number {
  const [u, v] = [x * 0.96 + y * 0.28, y * 0.96 - x * 0.28];
  return Math.floor(u / 17) % 2 === 0 && ((v % 23) + 23) % 23 < 14 ? 0.7 : 0.2;
}

/** What means over samples show of them. */
function sampled(spread: Spread, samples: number, seed: number, moved = 0): Float32Array {
  const { even } = generator(seed);
  return Float32Array.from({ length: COUNT }, (_, i) => {
    const places = spread(samples, even);
    return places.reduce((sum, [x, y]) => sum + cards((i % WIDTH) + x + moved + 200, Math.floor(i / WIDTH) + y), 0) / places.length;
  });
}

/** A frame whose albedo has the very samples of its picture; beside the cards' edges it has a little noise. */
function frameOf(albedo: Float32Array, seed: number, sigma = 0.002): NoiseBuffers {
  const { normal } = generator(seed);
  return {
    width: WIDTH,
    height: HEIGHT,
    luminance: albedo.map((value) => value * BRIGHTNESS + sigma * normal()),
    alpha: null,
    albedo,
    normal: null,
    depth: null,
    motion: [new Float32Array(COUNT).fill(1), new Float32Array(COUNT)],
  };
}
const waverOf = (albedo: Float32Array) => measureFrame(frameOf(albedo, 1), []).waver;

describe('what features say of pixels that two things share', () => {
  it.each([4, 16, 64, 256])('is off as so many samples are that fall anywhere (%i)', (samples) => {
    expect(waverOf(sampled(anywhere, samples, 3)) * (samples - 1)).toBeCloseTo(1, 0);
    // By less where they are spread.
    expect(waverOf(sampled(inCells, samples, 3)) * samples).toBeLessThan(0.8);
  });

  it('is off the less, the more samples are spread over the pixel', () => {
    const wavers = [16, 64, 256].map((samples) => waverOf(sampled(inCells, samples, 5)) * samples ** 1.5);
    for (const waver of wavers) expect(waver).toBeGreaterThan(0.7);
    for (const waver of wavers) expect(waver).toBeLessThan(1.7);
  });

  it('is right where they have no noise, and where they show the middle of a pixel alone', () => {
    expect(waverOf(sampled(everywhere, 1, 1))).toBeLessThan(3e-4);
    expect(waverOf(sampled(inTheMiddle, 1, 1))).toBe(0);
  });

  it('is told by edges: not by a surface, a ramp or a fine texture', () => {
    const { even } = generator(9);
    expect(waverOf(new Float32Array(COUNT).fill(0.5))).toBeNaN();
    expect(waverOf(Float32Array.from({ length: COUNT }, (_, i) => (i % WIDTH) / WIDTH))).toBeNaN();
    expect(waverOf(Float32Array.from({ length: COUNT }, even))).toBeNaN();
  });

  it('is told alike of features of any size', () => {
    const albedo = sampled(anywhere, 16, 4);
    const waver = waverOf(albedo);
    fc.assert(
      fc.property(fc.double({ min: 0.05, max: 20, noNaN: true }), (scale) => {
        expect(waverOf(albedo.map((value) => value * scale)) / waver).toBeCloseTo(1, 2);
      }),
      { numRuns: 10 },
    );
  });
});

describe('noise that features share', () => {
  /** A shot that goes by, and its noise as it is. */
  function told(spread: Spread, samples: number) {
    const frames = [0, 1, 2].map((number) => sampled(spread, samples, 40 + number, number));
    const right = [0, 1, 2].map((number) => sampled(everywhere, 1, 1, number));
    const { frames: measured } = measure(frames.map((albedo, i) => frameOf(albedo, 70 + i)));
    return measured.map(({ noise }, i) => {
      const errors = frames[i]!.map((value, at) => ((value - right[i]![at]!) * BRIGHTNESS) ** 2);
      return noise! / Math.sqrt(errors.reduce((sum, value) => sum + value, 0) / COUNT + 0.002 ** 2);
    });
  }

  it.each([
    ['anywhere', anywhere],
    ['in cells', inCells],
  ])('is given back, where samples fall %s', (_, spread) => {
    for (const samples of [16, 64]) for (const share of told(spread, samples)) expect(Math.abs(share - 1)).toBeLessThan(0.14);
  });
});

describe('what lies within pixels', () => {
  /** Sums over a picture of 32 x 32 pixels of what its pixels hold, as albedo tells which they are. */
  function within(luminance: (x: number, y: number) => number, albedo: (x: number, y: number) => number) {
    const plane = (of: (x: number, y: number) => number) => Float32Array.from({ length: 1024 }, (_, i) => of(i % 32, i >> 5));
    const mask = Uint8Array.from({ length: 1024 }, (_, i) => ((i % 32) % 31 === 0 || (i >> 5) % 31 === 0 ? 0 : 1));
    const picture = { width: 32, height: 32, luminance: plane(luminance), mask, albedo: plane(albedo), normal: null, depth: null, sights: [] } as const;
    const fit = fitPicture({ ...picture, filter: 'highPass', every: 1, least: 0.01 }, ['rims']);
    const sum = (values: Float64Array) => values.reduce((total, value) => total + value, 0);
    return { all: sum(fit.within), held: sum(fit.withinShared), pixels: sum(fit.shared) };
  }
  const edge = (low: number, high: number, covered: number) => (x: number) => (x < 12 ? low : x > 12 ? high : low + covered * (high - low));

  it('is p (1 - p) of the squared step on an edge, along lines and columns', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 0.9, noNaN: true }), fc.double({ min: 0.01, max: 9, noNaN: true }), (covered, step) => {
        const [light, albedo] = [edge(1, 1 + step, covered), edge(0.2, 0.6, covered)];
        const expected = 30 * covered * (1 - covered) * step ** 2;
        expect(within(light, albedo).held / expected).toBeCloseTo(1, 3);
        expect(
          within(
            (_, y) => light(y),
            (_, y) => albedo(y),
          ).held / expected,
        ).toBeCloseTo(1, 3);
        expect(within(light, albedo).pixels).toBe(30);
      }),
    );
  });

  it('is nothing where all rises evenly, and where the passes show no edge', () => {
    expect(
      within(
        (x) => x / 32,
        (x) => 0.2 + x / 64,
      ).pixels,
    ).toBe(0);
    const unseen = within(edge(0, 1, 0.5), () => 0.5);
    expect(unseen.held).toBe(0);
    expect(unseen.all / 30).toBeCloseTo(0.25, 5);
  });
});
