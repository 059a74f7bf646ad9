import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { floatToHalf, halfToFloat } from '../src/index.ts';
import { alongSome, oneOf, roomForSome } from '../src/assay/some-pixels.ts';
import { boxMean, placesAfter, placesBefore, roundToHalves } from '../src/kernels/index.ts';

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

describe('places along motion vectors', () => {
  /** Vectors in eighths of a pixel, so that sums are exact; some are none, and some lead far out. */
  const pairs = fc.record({ width: fc.integer({ min: 1, max: 23 }), height: fc.integer({ min: 1, max: 9 }) }).chain(({ width, height }) => {
    const numbers = fc.oneof({ weight: 12, arbitrary: fc.integer({ min: -30, max: 30 }) }, fc.constantFrom(NaN, Infinity, -4000, 8e9));
    const plane = fc.array(numbers, { minLength: width * height, maxLength: width * height }).map((values) => Float32Array.from(values, (one) => one / 8));
    const even = fc.integer({ min: -16, max: 16 }).map((value) => new Float32Array(width * height).fill(value / 8));
    const vectors = fc.tuple(fc.oneof(plane, even), fc.oneof(plane, even));
    return fc.record({ width: fc.constant(width), height: fc.constant(height), own: vectors, next: vectors });
  });
  const placeAt = (x: number, y: number, width: number, height: number) =>
    x >= -0.5 && y >= -0.5 && x < width - 0.5 && y < height - 0.5 ? Math.floor(y + 0.5) * width + Math.floor(x + 0.5) : -1;

  it('a frame earlier are the nearest pixels', () => {
    fc.assert(
      fc.property(pairs, ({ width, height, own }) => {
        const plainly = Array.from(own[0], (across, i) => placeAt((i % width) + across, Math.floor(i / width) + own[1][i]!, width, height));
        expect([...placesBefore(own, width, height)]).toEqual(plainly);
      }),
      { numRuns: 500 },
    );
  });

  it('a frame later are those that lead back', () => {
    fc.assert(
      fc.property(pairs, ({ width, height, own, next }) => {
        const plainly = Array.from(own[0], (across, i) => {
          const [x, y] = [i % width, Math.floor(i / width)];
          let at = placeAt(x - across, y - own[1][i]!, width, height);
          for (let round = 0; round < 3 && at >= 0; round++) at = placeAt(x - next[0][at]!, y - next[1][at]!, width, height);
          return at;
        });
        expect([...placesAfter(next, own, width, height)]).toEqual(plainly);
      }),
      { numRuns: 500 },
    );
  });
});

describe('some pixels of a picture', () => {
  it('are all of a small one, and of a large one about as many as are wanted, none twice', () => {
    const sizes = fc.record({ width: fc.integer({ min: 1, max: 400 }), height: fc.integer({ min: 1, max: 90 }), most: fc.integer({ min: 1, max: 40_000 }) });
    fc.assert(
      fc.property(sizes, ({ width, height, most }) => {
        const seen = new Uint8Array(width * height);
        let count = 0;
        alongSome(width, height, most, (y, line, first, end) => {
          expect(line).toBe(y * width);
          for (let x = first; x < end; x++, count++) seen[line + x]!++;
        });
        expect(seen.every((times) => times <= 1)).toBe(true);
        expect(count).toBeLessThanOrEqual(roomForSome(width, height, most));
        if (width * height <= most) expect(count).toBe(width * height);
        // Within a run of each line that may begin or end outside.
        else expect(Math.abs(count * oneOf(width, height, most) - width * height)).toBeLessThanOrEqual(16 * oneOf(width, height, most) * (height + width / 16));
      }),
      { numRuns: 300 },
    );
  });
});
