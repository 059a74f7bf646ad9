import { describe, expect, it } from 'vitest';
import {
  DenoiseSettingError,
  detailKept,
  filterFrame,
  further,
  greyOf,
  knownNoise,
  NotForDenoisingError,
  parseFrameCount,
  parseStrength,
  refuseData,
  secondsForRange,
  shareOfDetail,
  steadyFrame,
  trailAfter,
  trailBefore,
  type DenoiseFigures,
  type FrameToSteady,
} from '../src/index.ts';
import {
  apart,
  bricks,
  COUNT,
  errorOf,
  HEIGHT,
  light,
  passing,
  pictureOf,
  plane,
  rootMeanSquare,
  SIGMA,
  sigmas,
  SPEED,
  tinted,
  WIDTH,
} from './noisy-pictures.ts';

describe('known noise', () => {
  it('has a deviation of 1, is the same of the same seed and another of another', () => {
    const noise = knownNoise(50_000, 3);
    expect(rootMeanSquare(noise)).toBeCloseTo(1, 1);
    expect(noise.reduce((sum, value) => sum + value, 0) / noise.length).toBeCloseTo(0, 1);
    expect(knownNoise(100, 3)).toEqual(noise.slice(0, 100));
    expect(apart(knownNoise(1000, 4), noise.slice(0, 1000))).toBeGreaterThan(1);
  });
});

describe('a frame that is filtered by itself', () => {
  it('loses most of its noise on smooth surfaces', () => {
    expect(errorOf(filterFrame(pictureOf(light), sigmas(), 1, 1).colours, light)).toBeLessThan(SIGMA / 4);
  });

  it('says how much noise is left', () => {
    const flat = plane((x) => 0.4 + x / 1000);
    for (const strength of [0.25, 1]) {
      const { colours, left } = filterFrame(pictureOf(flat), sigmas(), strength, 1);
      const told = rootMeanSquare(left) / tinted / errorOf(colours, flat);
      expect(told).toBeGreaterThan(0.6);
      expect(told).toBeLessThan(1.4);
    }
  });

  it('keeps texture that the albedo explains', () => {
    const truth = bricks.map((value, i) => value * light[i]!);
    const known = filterFrame(pictureOf(truth, { albedo: [bricks] }), sigmas(), 1, 1);
    const unknown = filterFrame(pictureOf(truth), sigmas(), 1, 1);
    expect(errorOf(known.colours, truth)).toBeLessThan(SIGMA / 2.5);
    expect(errorOf(known.colours, truth)).toBeLessThan(errorOf(unknown.colours, truth));
  });

  it('leaves less noise the stronger it is', () => {
    const left = [0.5, 1, 2].map((strength) => rootMeanSquare(filterFrame(pictureOf(light), sigmas(), strength, 1).left));
    expect(left[1]).toBeLessThan(left[0]!);
    expect(left[2]).toBeLessThan(left[1]!);
  });

  it('stays as it is where there is no noise', () => {
    const truth = bricks.map((value, i) => value * light[i]!);
    expect(errorOf(filterFrame(pictureOf(truth, {}, 0), sigmas(0), 1, 1).colours, truth)).toBeLessThan(1e-4);
  });

  it('keeps highlights above 1 and lobes below 0', () => {
    const truth = plane((x) => (x < 40 ? -0.4 : x < 80 ? 0.5 : 12));
    const { colours } = filterFrame(pictureOf(truth), sigmas(), 1, 1);
    const meanOver = (from: number, to: number) => {
      const values = colours[0]!.filter((_, i) => i % WIDTH >= from && i % WIDTH < to);
      return values.reduce((sum, value) => sum + value, 0) / values.length;
    };
    expect(meanOver(4, 36)).toBeCloseTo(-0.4, 2);
    expect(meanOver(84, 116)).toBeCloseTo(12, 1);
    expect(errorOf(colours, truth)).toBeLessThan(SIGMA / 2);
  });

  it('leaves alone what nothing covers, and learns nothing from what is no number', () => {
    const alpha = plane((x) => (x < 30 ? 0 : 1));
    const holes = new Uint8Array(COUNT);
    const hole = 40 * WIDTH + 60;
    holes[hole] = 1;
    const picture = pictureOf(light, { alpha, holes });
    picture.colours.forEach((values) => (values[hole] = 500));
    const { colours } = filterFrame(picture, sigmas(), 1, 1);
    for (let y = 0; y < HEIGHT; y++) expect(colours[0]!.slice(y * WIDTH, y * WIDTH + 30)).toEqual(picture.colours[0]!.slice(y * WIDTH, y * WIDTH + 30));
    expect(colours[0]![hole]).toBe(500);
    expect(Math.abs(colours[0]![hole + 1]! - light[hole + 1]!)).toBeLessThan(2 * SIGMA);
  });

  it('takes fireflies away instead of spreading them', () => {
    const spark = 30 * WIDTH + 70;
    const picture = pictureOf(light);
    picture.colours.forEach((values) => (values[spark] = 90));
    const { colours, fireflies } = filterFrame({ ...picture, luminance: greyOf(picture.colours) }, sigmas(), 1, 1);
    expect(fireflies).toEqual([spark]);
    for (const place of [spark, spark + 1, spark + 3 * WIDTH]) expect(Math.abs(colours[0]![place]! - light[place]!)).toBeLessThan(2 * SIGMA);
  });
});

const still: readonly [Float32Array, Float32Array] = [new Float32Array(COUNT), new Float32Array(COUNT)];

describe('a frame that is steadied', () => {
  const size = { width: WIDTH, height: HEIGHT };
  const truth = passing(2, 0).colours[0]!;
  const inside = (values: Float32Array) => values.filter((_, i) => i % WIDTH >= 8 && i % WIDTH < WIDTH - 8);
  const companionsOf = (frames: readonly FrameToSteady[]) => {
    const [, before, own, after] = frames as [FrameToSteady, FrameToSteady, FrameToSteady, FrameToSteady];
    const trail = trailBefore(own.motion!, size);
    return [
      { frame: before, trail },
      { frame: frames[0]!, trail: further(trail, trailBefore(before.motion!, size), size) },
      { frame: after, trail: trailAfter(own.motion!, after.motion!, size) },
    ];
  };

  it('follows what moves, and has less noise left', () => {
    const frames = [0, 1, 2, 3].map((number) => passing(number));
    const { colours, left, taken } = steadyFrame(frames[2]!, companionsOf(frames));
    expect(apart(inside(colours[0]!), inside(truth))).toBeLessThan(0.02 / 1.6);
    expect(rootMeanSquare(inside(left))).toBeLessThan(0.02 / 1.6);
    expect(inside(taken).reduce((least, share) => Math.min(least, share), 1)).toBeGreaterThan(0.5);
  });

  it('takes no ghost of what stands in one frame alone', () => {
    const ball = (x: number, y: number) => ((x - 60) ** 2 + (y - 40) ** 2 < 100 ? 1.5 : 0);
    const frames = [0, 1, 2, 3].map((number) => passing(number, 0.02, number === 1 ? ball : undefined));
    const { colours, refused } = steadyFrame(frames[2]!, companionsOf(frames));
    const ghost = colours[0]!.reduce((most, value, i) => (i % WIDTH > 8 && i % WIDTH < WIDTH - 8 ? Math.max(most, Math.abs(value - truth[i]!)) : most), 0);
    // The largest of ten thousand errors of what is left alone is four times their deviation.
    expect(ghost).toBeLessThan(2 * 4 * 0.02);
    expect(refused[40 * WIDTH + 58]).toBeGreaterThan(0.3);
  });

  // Each with hardly any noise left beside what is lost between pixels, and as the last one with more.
  it.each([
    [0.04, 0.002],
    [0.08, 0.005],
    [0.2, 0.01],
    [0.2, 0.02],
  ])('is not made softer by neighbours that lie between its pixels: bars %d brighter, noise %d', (brighter, noise) => {
    // A few pixels wide, as a renderer shows them: by the share of each pixel that they cover.
    const bars = (number: number) => (x: number) => {
      const from = (x + SPEED * number) % 9;
      return brighter * (Math.max(0, Math.min(from + 1, 4) - from) + Math.max(0, from - 8));
    };
    const framesWith = (left: number) => [0, 1, 2, 3].map((number) => passing(number, left, bars(number)));
    const frames = framesWith(noise);
    const { colours } = steadyFrame(frames[2]!, companionsOf(frames));
    expect(apart(inside(colours[0]!), inside(framesWith(0)[2]!.colours[0]!))).toBeLessThan(0.95 * noise);
  });

  it('takes nothing from other surfaces', () => {
    const [own, other] = [passing(2), passing(3)];
    const near = new Float32Array(COUNT).fill(4);
    const { colours, taken } = steadyFrame({ ...own, depth: near }, [{ frame: { ...other, depth: near.map((z) => 2 * z) }, trail: trailBefore(still, size) }]);
    expect(colours[0]).toEqual(own.colours[0]);
    expect(taken.every((share) => share === 0)).toBe(true);
  });
});

describe('what is asked for', () => {
  it('is a strength by name or number', () => {
    expect(['light', 'middle', 'strong', '1.5'].map(parseStrength)).toEqual([0.5, 1, 2, 1.5]);
    for (const text of ['', 'none', '0', '-1', '99', 'NaN']) expect(() => parseStrength(text)).toThrow(DenoiseSettingError);
  });

  it('is an odd number of frames up to seven', () => {
    expect(['1', '3', '5', '7'].map(parseFrameCount)).toEqual([1, 3, 5, 7]);
    for (const text of ['', '2', '9', '5.0']) expect(() => parseFrameCount(text)).toThrow(DenoiseSettingError);
  });

  it('is never a pass that holds data', () => {
    expect(() => refuseData({ name: 'beauty', role: 'beauty' })).not.toThrow();
    expect(() => refuseData({ name: 'key', role: 'light' })).not.toThrow();
    for (const role of ['half', 'albedo', 'normal', 'depth', 'motion', 'occlusion', 'matte', 'id', 'other', undefined] as const)
      expect(() => refuseData({ name: 'that', role })).toThrow(NotForDenoisingError);
    expect(() => refuseData({ name: 'beauty_denoised', role: 'beauty', denoisedFrom: 'beauty' })).toThrow(/denoised already/);
  });
});

describe('the detail that is kept', () => {
  const truth = light.map((value, i) => value * bricks[i]!);
  const picture = pictureOf(truth, { albedo: [bricks, bricks, bricks] }, SIGMA / 2);
  const given = knownNoise(COUNT, 99).map((value) => (value * SIGMA * tinted) / 2);
  const nothing = new Float32Array(COUNT);
  const shareOf = (luminance: Float32Array, left: Float32Array) => shareOfDetail([detailKept(picture, { luminance, left, known: given })])!;
  const ofTruth = truth.map((value) => value * tinted);

  it('is all of it where nothing was done, or only the noise is gone', () => {
    // What is left of known noise is not the noise of the picture, but as much of it.
    expect(shareOf(picture.luminance, given)).toBeCloseTo(1, 1);
    expect(shareOf(ofTruth, nothing)).toBeCloseTo(1, 1);
  });

  it('is half where half of it is gone, and little where all is smeared', () => {
    const smooth = light.map((value) => value * 0.55 * tinted);
    const halfway = ofTruth.map((value, i) => (value + smooth[i]!) / 2);
    expect(shareOf(halfway, nothing)).toBeCloseTo(0.5, 1);
    expect(Math.abs(shareOf(smooth, nothing))).toBeLessThan(0.1);
  });

  it('is told by a better render, whatever its own noise', () => {
    const better = pictureOf(truth, {}, SIGMA / 8, 31).luminance;
    const against = (luminance: Float32Array) =>
      shareOfDetail([detailKept(picture, { luminance, left: nothing, known: given }, { luminance: better, noise: 1 / 4 })])!;
    expect(against(ofTruth)).toBeCloseTo(1, 1);
    expect(against(ofTruth.map((value, i) => (value + light[i]! * 0.55 * tinted) / 2))).toBeCloseTo(0.5, 1);
  });

  it('is less, the stronger the filter is, where the features say nothing of the texture', () => {
    const [weak, strong] = [0.5, 4].map((strength) => {
      const blind = pictureOf(truth, {}, SIGMA / 2);
      const { colours, left } = filterFrame(blind, sigmas(SIGMA / 2), strength, 99);
      return shareOfDetail([detailKept(blind, { luminance: greyOf(colours), left, known: given })])!;
    });
    expect(weak).toBeGreaterThan(0.7);
    expect(strong).toBeLessThan(weak!);
  });

  it('is not known where there is nothing but noise', () => {
    const flat = pictureOf(new Float32Array(COUNT).fill(0.5));
    expect(shareOfDetail([detailKept(flat, { luminance: flat.luminance, left: given, known: given.map((value) => 2 * value) })])).toBeNull();
  });
});

describe('the time that a range takes', () => {
  const figures = { filtered: 12, secondsEach: 4, threads: 2 } as DenoiseFigures;

  it('counts the frames beside each stretch, and threads that share them', () => {
    expect(secondsForRange(figures, 24, 1)).toBe(48);
    expect(secondsForRange(figures, 48, 5)).toBe(((48 + 4) * 4) / 2);
    expect(secondsForRange(figures, 96, 5)).toBe(((96 + 2 * 4) * 4) / 2);
    expect(secondsForRange({ ...figures, filtered: 0 }, 48, 5)).toBeNull();
  });
});
