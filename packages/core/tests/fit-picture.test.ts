import { describe, expect, it } from 'vitest';
import { fitPicture } from '../src/kernels/index.ts';

/** Numbers spread evenly over 0..1. */
const chance = (seed: number) => () => (seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647;
const withoutRing = (width: number, height: number) =>
  Uint8Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    return x > 0 && y > 0 && x < width - 1 && y < height - 1 ? 1 : 0;
  });

describe('the light on surfaces', () => {
  it('is of each its own, at every edge of the picture as well', () => {
    const [width, height] = [48, 48];
    const random = chance(5);
    const albedo = Float32Array.from({ length: width * height }, () => 0.1 + random());
    // Three strips of surfaces, narrow ones at either side, each with its light.
    const isNear = (i: number) => i % width < 3 || i % width >= width - 3 || Math.floor(i / width) < 3;
    const depth = albedo.map((_, i) => (isNear(i) ? 2 : 9));
    const luminance = albedo.map((value, i) => value * (isNear(i) ? 0.2 : 3));
    const mask = withoutRing(width, height);
    const picture = { width, height, luminance, mask, albedo, normal: null, depth, sights: [], filter: 'highPass', every: 1, least: 0.01 } as const;
    const { variances } = fitPicture(picture, []);
    const without = fitPicture({ ...picture, depth: null }, []).variances;
    // A thousandth is added to the albedo's mean: so much is left.
    for (const tile of [0, 1, 2, 3, 5, 6, 8]) expect(variances[tile]! / without[tile]!).toBeLessThan(1e-4);
  });
});

describe('what two neighbours show', () => {
  const [width, height] = [64, 48];
  const count = width * height;
  const random = chance(11);
  const shown = Float32Array.from({ length: count }, random);
  const beside = (by: number) => shown.map((_, i) => shown[Math.min(count - 1, Math.max(0, i + by))]!);
  const noise = chance(7);
  const luminance = shown.map((value) => value + 0.001 * (noise() - 0.5));
  const picture = (first: number, second: number) => ({
    ...{ width, height, luminance, mask: withoutRing(width, height), albedo: null, normal: null, depth: null },
    sights: [first, second].map((by) => ({ luminance: beside(by), places: Int32Array.from({ length: count }, (_, i) => i), depth: null, normal: null })),
    ...({ filter: 'highPass', every: 1, least: 0.01 } as const),
  });
  /** What is left of the tiles inside, as shares of what was there. */
  const left = (first: number, second: number, byFeatures?: Float64Array) => {
    const { variances, totals, pixels } = fitPicture({ ...picture(first, second), byFeatures }, []);
    return [5, 6].map((tile) => variances[tile]! / (totals[tile]! / pixels[tile]!));
  };
  const structured = new Float64Array(12).fill(1e9);

  it('on opposite sides explains all', () => {
    for (const share of left(1, -1)) expect(share).toBeLessThan(1e-4);
  });

  it('on the same side explains all where there is structure, for which each has columns of its own', () => {
    for (const share of left(1, 1)) expect(share).toBeGreaterThan(0.1);
    for (const share of left(1, 1, structured)) expect(share).toBeLessThan(1e-4);
    // Without structure nothing changes.
    expect(left(1, 1, new Float64Array(12))).toEqual(left(1, 1));
  });

  it('is so far what either leaves as there is structure', () => {
    const { variances } = fitPicture(picture(1, 1), []);
    const [small, whole] = [left(1, 1), left(1, 1, structured)];
    // By its logarithm half way between where columns of their own begin to count and where they are all.
    const half = left(
      1,
      1,
      variances.map((variance) => variance * Math.sqrt(1.5 * 3)),
    );
    half.forEach((share, i) => expect(share).toBeCloseTo((small[i]! + whole[i]!) / 2, 4));
  });
});

describe('a wide picture', () => {
  const [width, height] = [44 * 16 - 5, 48];
  const random = chance(23);
  const plane = () => Float32Array.from({ length: width * height }, random);
  const [luminance, before, after, albedo, depth] = [plane(), plane(), plane(), plane(), plane().map((value) => 4 + 0.1 * value)];
  const normal = [plane(), plane(), plane()] as const;

  /** What is left of some columns of tiles of the picture, fitted as a picture of its own. */
  const leftOf = (first: number, end: number) => {
    const [left, right] = [first * 16, Math.min(width, end * 16)];
    const shown = right - left;
    const part = (values: Float32Array) => Float32Array.from({ length: shown * height }, (_, i) => values[Math.floor(i / shown) * width + left + (i % shown)]!);
    const places = Int32Array.from({ length: shown * height }, (_, i) => i);
    const sight = (values: Float32Array) => ({ luminance: part(values), places, depth: part(depth), normal: normal.map(part) });
    const picture = {
      ...{
        width: shown,
        height,
        luminance: part(luminance),
        mask: withoutRing(shown, height),
        albedo: part(albedo),
        normal: normal.map(part),
        depth: part(depth),
      },
      ...({ sights: [sight(before), sight(after)], filter: 'highPass', every: 1, least: 0.01 } as const),
    };
    const { variances, totals, planes } = fitPicture(picture, ['squares', 'rims'], []);
    return { across: Math.ceil(shown / 16), shown, variances, totals, planes };
  };

  it('is fitted as parts of it are by themselves', () => {
    const whole = leftOf(0, 44);
    for (const [first, end] of [
      [0, 9],
      [9, 20],
      [18, 35],
      [34, 44],
    ] as const) {
      const part = leftOf(first, end);
      for (let row = 0; row < 3; row++) {
        // The outermost tiles of a part end where the picture goes on, or begins anew on the line below.
        for (let tile = first + 1; tile < end - 1; tile++) {
          const [there, here] = [row * whole.across + tile, row * part.across + tile - first];
          expect(whole.variances[there]).toBeCloseTo(part.variances[here]!, 6);
          expect(whole.totals[there]).toBeCloseTo(part.totals[here]!, 4);
          const middle = (tile - first) * 16 + 7;
          for (const name of ['squares', 'rims'] as const)
            expect(whole.planes[name][(row * 16 + 7) * width + first * 16 + middle]).toBeCloseTo(part.planes[name][(row * 16 + 7) * part.shown + middle]!, 6);
        }
      }
    }
  });
});
