import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { paintSum, sumOfLights } from '../src/index.ts';

const [WIDTH, HEIGHT] = [16, 8];
const COUNT = WIDTH * HEIGHT;
const PASSES = ['diffuse', 'specular', 'emission'];

/** Lights that have nothing to do with each other, and the beauty that they sum to. */
const lit = fc
  .array(fc.array(fc.double({ min: 0.1, max: 4, noNaN: true }), { minLength: COUNT, maxLength: COUNT }), { minLength: 3, maxLength: 3 })
  .map((planes) => planes.map((values, i) => ({ pass: PASSES[i]!, width: WIDTH, height: HEIGHT, values: Float32Array.from(values) })));
type Lights = { pass: string; width: number; height: number; values: Float32Array }[];
const beautyOf = (lights: Lights) => ({
  width: WIDTH,
  height: HEIGHT,
  values: Float32Array.from({ length: COUNT }, (_, i) => lights.reduce((sum, { values }) => sum + values[i]!, 0)),
});

describe('the sum of the light passes', () => {
  it('is the beauty, where it is', () => {
    fc.assert(
      fc.property(lit, (lights) => {
        const { share, ratio, repair } = sumOfLights(beautyOf(lights), lights)!;
        expect([share, repair]).toEqual([0, null]);
        expect(ratio).toBeCloseTo(1, 5);
      }),
    );
  });

  it('names the light that lacks or is too much, and how many times it has to be taken', () => {
    fc.assert(
      fc.property(lit, fc.constantFrom(0, 1, 2), fc.constantFrom(0.5, 5 / 6, 2), (lights, which, times) => {
        const wrong = lights.map((light, i) => (i === which ? { ...light, values: light.values.map((value) => value * times) } : light));
        const { share, repair } = sumOfLights(beautyOf(lights), wrong)!;
        expect(share).toBeGreaterThan(0.3);
        expect(repair!.pass).toBe(PASSES[which]);
        expect(repair!.times).toBeCloseTo(1 / times, 3);
      }),
    );
  });

  it('names none where no light alone would do', () => {
    fc.assert(
      fc.property(lit, (lights) => {
        const beauty = beautyOf(lights);
        // A pattern that is in no light.
        beauty.values.forEach((value, i) => (beauty.values[i] = value + (i % 2 === 0 ? 3 : -3)));
        expect(sumOfLights(beauty, lights)!.repair).toBeNull();
      }),
    );
  });

  it('is not told of pixels without a number, of another size, and of no lights', () => {
    const beauty = { width: 2, height: 1, values: Float32Array.of(1, NaN) };
    const light = (values: number[], width = 2) => ({ pass: 'diffuse', width, height: 1, values: Float32Array.from(values) });
    expect(sumOfLights(beauty, [light([1, 5])])).toMatchObject({ share: 0, ratio: 1 });
    expect(sumOfLights(beauty, [light([NaN, 5])])).toBeNull();
    expect(sumOfLights(beauty, [light([1], 1)])).toBeNull();
    expect(sumOfLights(beauty, [])).toBeNull();
  });
});

describe('the picture of what a sum misses', () => {
  const plane = (width: number, height: number, of: (i: number) => number) => ({
    width,
    height,
    values: Float32Array.from({ length: width * height }, (_, i) => of(i)),
  });
  const beauty = plane(8, 4, () => 1);

  it('is clear where they sum, and tells too little from too much', () => {
    const picture = paintSum(beauty, [plane(8, 4, (i) => (i === 3 ? 0.5 : i === 20 ? 2 : 1))], 100)!;
    expect([picture.width, picture.height, picture.share]).toEqual([8, 4, 2 / 32]);
    const alphas = Array.from({ length: 32 }, (_, i) => picture.data[i * 4 + 3]! > 0);
    expect(alphas.flatMap((isSeen, i) => (isSeen ? [i] : []))).toEqual([3, 20]);
    const colour = (i: number) => [...picture.data.subarray(i * 4, i * 4 + 3)];
    expect(colour(3)[0]).toBeGreaterThan(colour(3)[2]!);
    expect(colour(20)[2]).toBeGreaterThan(colour(20)[0]!);
  });

  it('keeps a single pixel of a large frame', () => {
    const picture = paintSum(beauty, [plane(8, 4, (i) => (i === 13 ? 0 : 1))], 2)!;
    expect([picture.width, picture.height]).toEqual([2, 1]);
    expect([picture.data[3], picture.data[7]].map((alpha) => alpha! > 0)).toEqual([false, true]);
  });

  it('is none of other sizes, and nothing of what is no number', () => {
    expect(paintSum(beauty, [plane(4, 4, () => 1)], 100)).toBeNull();
    expect(paintSum(beauty, [plane(8, 4, (i) => (i === 0 ? NaN : 1))], 100)!.share).toBe(0);
  });
});
