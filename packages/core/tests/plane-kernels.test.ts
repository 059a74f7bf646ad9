import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { floatToHalf, halfToFloat } from '../src/index.ts';
import { boxMean, roundToHalves } from '../src/kernels/index.ts';

describe('rounding numbers to half floats', () => {
  const plainly = (values: Float32Array) => Uint16Array.from(values, floatToHalf);

  it('gives back every half float there is', () => {
    const all = Uint16Array.from({ length: 1 << 16 }, (_, i) => i);
    const back = roundToHalves(Float32Array.from(all, halfToFloat));
    // What is no number stays none, whatever else it said.
    expect(back.every((half, i) => half === i || (Number.isNaN(halfToFloat(half)) && Number.isNaN(halfToFloat(i))))).toBe(true);
  });

  it('rounds what lies between two, and half way between, as the plain sum does', () => {
    const between = Float32Array.from({ length: 3 * 0x7c00 }, (_, i) => {
      const half = Math.floor(i / 3);
      const [low, high] = [halfToFloat(half), half === 0x7bff ? 65536 : halfToFloat(half + 1)];
      return low + (high - low) * [0.5, 0.4999, 0.5001][i % 3]!;
    });
    for (const values of [between, between.map((value) => -value)]) expect([...roundToHalves(values)]).toEqual([...plainly(values)]);
  });

  it('rounds any bits, of any length', () => {
    const bits = fc.uint32Array({ maxLength: 40 });
    fc.assert(
      fc.property(bits, (of) => {
        const values = new Float32Array(of.slice().buffer);
        expect([...roundToHalves(values)]).toEqual([...plainly(values)]);
      }),
      { numRuns: 2000 },
    );
    const special = Float32Array.of(65504, 65519.99, 65520, 65536, 1e9, Infinity, -Infinity, NaN, 2 ** -24, 2 ** -25, 2 ** -25 * 1.0001, 2 ** -26, -0, 0);
    expect([...roundToHalves(special)]).toEqual([...plainly(special)]);
  });
});

describe('means over what is around', () => {
  it('are those of the pixels that are there', () => {
    const sizes = fc.record({
      width: fc.integer({ min: 1, max: 21 }),
      height: fc.integer({ min: 1, max: 21 }),
      radius: fc.integer({ min: 1, max: 9 }),
      seed: fc.nat(),
    });
    fc.assert(
      fc.property(sizes, ({ width, height, radius, seed }) => {
        const plane = Float32Array.from({ length: width * height }, (_, i) => Math.sin(seed + i * 12.9898) * 100);
        const means = boxMean(plane, width, height, radius);
        for (let y = 0, i = 0; y < height; y++) {
          for (let x = 0; x < width; x++, i++) {
            let [sum, count] = [0, 0];
            for (let row = Math.max(0, y - radius); row <= Math.min(height - 1, y + radius); row++)
              for (let column = Math.max(0, x - radius); column <= Math.min(width - 1, x + radius); column++, count++) sum += plane[row * width + column]!;
            expect(means[i]).toBeCloseTo(sum / count, 3);
          }
        }
      }),
      { numRuns: 200 },
    );
  });
});
