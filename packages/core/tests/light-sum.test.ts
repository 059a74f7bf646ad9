import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { sumOfLights } from '../src/index.ts';

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
