import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { filterPicture, type PictureToFilter } from '../src/kernels/index.ts';

/** What the kernel does, as plainly as it can be said: window by window, pixel by pixel, in 64-bit floats. */
function plainly({ width, height, guide, trust, mask, features, colours, sharpness }: PictureToFilter): number[][] {
  const at = (values: Float32Array, x: number, y: number) => values[Math.min(height - 1, Math.max(0, y)) * width + Math.min(width - 1, Math.max(0, x))]!;
  const sums = colours.map((own) => Array.from(own, (value) => 0.05 * value));
  const weights = new Array<number>(width * height).fill(0.05);
  for (let cy = 0; cy < height; cy += 4) {
    for (let cx = 0; cx < width; cx += 4) {
      const pixels: { i: number; weight: number; row: number[] }[] = [];
      for (let y = cy - 8; y < cy + 8; y++) {
        for (let x = cx - 8; x < cx + 8; x++) {
          if (x < 0 || y < 0 || x >= width || y >= height || mask[y * width + x] === 0) continue;
          let patches = 0;
          for (let dy = -3; dy <= 3; dy++)
            for (let dx = -3; dx <= 3; dx++) patches += (at(guide, cx + dx, cy + dy) - at(guide, x + dx, y + dy)) ** 2 * at(trust, cx + dx, cy + dy);
          const apart = features.map(({ values }) => at(values, x, y) - at(values, cx, cy));
          const far = sharpness * Math.max(0, patches / 49 - 1) + features.reduce((sum, { scale }, a) => sum + scale * apart[a]! ** 2, 0);
          const root = Math.max(0, 1 - far / 16) ** 8;
          if (root > 0) pixels.push({ i: y * width + x, weight: root * root, row: [1, ...apart] });
        }
      }
      const gram = Array.from({ length: features.length + 1 }, (_, a) =>
        Array.from({ length: features.length + 1 }, (_, b) => pixels.reduce((sum, { weight, row }) => sum + weight * row[a]! * row[b]!, 0)),
      );
      gram.forEach((row, a) => (row[a]! *= 1.0001));
      colours.forEach((own, c) => {
        const right = gram.map((_, a) => pixels.reduce((sum, { i, weight, row }) => sum + weight * row[a]! * own[i]!, 0));
        const slopes = solved(gram, right);
        for (const { i, weight, row } of pixels) sums[c]![i]! += weight * row.reduce((sum, value, a) => sum + value * slopes[a]!, 0);
      });
      for (const { i, weight } of pixels) weights[i]! += weight;
    }
  }
  return sums.map((plane) => plane.map((sum, i) => sum / weights[i]!));
}

/** Gauss's elimination. */
function solved(matrix: readonly (readonly number[])[], right: readonly number[]): number[] {
  const rows = matrix.map((row, a) => [...row, right[a]!]);
  rows.forEach((row, a) => {
    for (const other of rows.slice(a + 1)) {
      const share = row[a] === 0 ? 0 : other[a]! / row[a]!;
      other.forEach((_, b) => (other[b]! -= share * row[b]!));
    }
  });
  const out = right.map(() => 0);
  for (let a = rows.length - 1; a >= 0; a--) {
    const rest = rows[a]!.slice(0, -1).reduce((sum, value, b) => (b > a ? sum + value * out[b]! : sum), 0);
    out[a] = rows[a]![a] === 0 ? 0 : (rows[a]!.at(-1)! - rest) / rows[a]![a]!;
  }
  return out;
}

/** Values that look like none of the others, the same of the same seed. */
function scattered(count: number, seed: number): Float32Array {
  let state = seed >>> 0;
  return Float32Array.from({ length: count }, () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  });
}

function picture(width: number, height: number, features: number, colours: number, seed: number): PictureToFilter {
  const count = width * height;
  const planes = Array.from({ length: features + colours + 1 }, (_, i) => scattered(count, seed + 31 * i).map((value, at) => value + (at % width) / 20));
  return {
    width,
    height,
    guide: planes[0]!,
    trust: scattered(count, seed + 7).map((value) => 0.5 + value),
    mask: scattered(count, seed + 9).map((value) => (value < 0.1 ? 0 : 1)),
    features: planes.slice(1, 1 + features).map((values, i) => ({ values, scale: 0.5 + i })),
    colours: planes.slice(1 + features),
    sharpness: 1.5,
  };
}

const apart = (some: readonly ArrayLike<number>[], others: readonly ArrayLike<number>[]) =>
  Math.max(...some.flatMap((plane, c) => Array.from(plane, (value, i) => Math.abs(value - others[c]![i]!))));

describe('the windows of the filter', () => {
  it('do what is said plainly, at every size, with however many features and planes', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 23 }),
        fc.integer({ min: 1, max: 23 }),
        fc.integer({ min: 0, max: 3 }),
        fc.integer({ min: 1, max: 5 }),
        fc.nat(1000),
        (width, height, features, colours, seed) => {
          const one = picture(width, height, features, colours, seed);
          expect(apart(filterPicture(one), plainly(one))).toBeLessThan(5e-3);
        },
      ),
      { numRuns: 15 },
    );
  });

  it('do so across strips and bands as well', () => {
    const one = picture(141, 108, 1, 1, 5);
    expect(apart(filterPicture(one), plainly(one))).toBeLessThan(5e-3);
  });

  it('leave what they do not believe as it is, and learn nothing from it', () => {
    const one = picture(20, 20, 1, 2, 3);
    const loud = one.colours.map((plane) => plane.map((value, i) => (one.mask[i] === 0 ? 1e6 : value)));
    const [quiet, other] = [filterPicture(one), filterPicture({ ...one, colours: loud })];
    other.forEach((plane, c) => plane.forEach((value, i) => expect(value).toBeCloseTo(one.mask[i] === 0 ? 1e6 : quiet[c]![i]!, one.mask[i] === 0 ? 0 : 4)));
  });

  it('filter many planes by the same weights as few', () => {
    const one = picture(24, 20, 2, 23, 8);
    const few = filterPicture({ ...one, colours: one.colours.slice(21) });
    expect(apart(filterPicture(one).slice(21), few)).toBe(0);
  });
});
