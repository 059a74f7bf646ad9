import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { halfToFloat } from '../src/index.ts';
import { findZeroRuns, joinHalves, pairBytes, splitHalves, sumUpValues, unfilterRows, type ValueSums } from '../src/kernels/index.ts';
import { room } from '../src/kernels/memory.ts';

/** Long enough for several vectors and a remainder, short enough to shrink. */
const someBytes = fc.oneof(fc.uint8Array({ maxLength: 40 }), fc.uint8Array({ minLength: 100, maxLength: 700 }));

/** Compares many bytes quickly, and shows them only where they differ. */
function equal(found: Uint8Array, wanted: Uint8Array): void {
  if (!Buffer.from(found).equals(Buffer.from(wanted))) expect([...found]).toEqual([...wanted]);
}

describe('joining halves', () => {
  /** As the format has it: differences one after the other, then the first half's bytes between the second's. */
  function plainly(split: Uint8Array): Uint8Array {
    const sums = Uint8Array.from(split);
    for (let i = 1; i < sums.length; i++) sums[i] = sums[i - 1] + split[i] - 128;
    const half = (split.length + 1) >> 1;
    return Uint8Array.from(split, (_, i) => sums[i % 2 === 0 ? i >> 1 : half + (i >> 1)]);
  }

  it('is what one byte after the other comes to', () => {
    fc.assert(fc.property(someBytes, (split) => equal(joinHalves(split), plainly(split))));
  });

  it('is so for every length up to a hundred, at the edges of the vectors', () => {
    for (let size = 0; size <= 100; size++) {
      const split = Uint8Array.from({ length: size }, (_, i) => (i * 89 + size * 31) & 255);
      equal(joinHalves(split), plainly(split));
    }
  });

  it('takes a piece that is larger than the memory was', () => {
    const split = Uint8Array.from({ length: 3_000_001 }, (_, i) => (i * i) & 255);
    equal(joinHalves(split), plainly(split));
  });
});

describe('splitting halves', () => {
  const split = (pixels: Uint8Array) => splitHalves(pixels).slice();

  it('is undone by joining them, for every length up to a hundred and longer ones', () => {
    for (let size = 0; size <= 100; size++) {
      const pixels = Uint8Array.from({ length: size }, (_, i) => (i * 89 + size * 31) & 255);
      equal(joinHalves(split(pixels)), pixels);
    }
    fc.assert(fc.property(someBytes, (pixels) => equal(joinHalves(split(pixels)), pixels)));
  });

  it('begins with the first byte, and goes on with differences', () => {
    expect([...split(Uint8Array.of(7, 100, 9, 90, 4))]).toEqual([7, 130, 123, 224, 118]);
  });
});

describe('pairing bytes', () => {
  it('puts the two halves in turn, for every length', () => {
    for (let count = 0; count <= 70; count++) {
      const halves = Uint8Array.from({ length: 2 * count }, (_, i) => (i * 89 + count * 31) & 255);
      const plainly = Uint8Array.from({ length: 2 * count }, (_, i) => halves[(i >> 1) + (i & 1) * count]!);
      equal(pairBytes(halves), plainly);
    }
  });
});

describe('undoing the filters of rows', () => {
  /** Section 9.2 of the PNG standard, byte by byte. */
  function plainly(filtered: Uint8Array, rowBytes: number, height: number, bytesPerPixel: number): Uint8Array {
    const out = new Uint8Array(rowBytes * height);
    for (let row = 0; row < height; row++) {
      const filter = filtered[row * (rowBytes + 1)];
      for (let i = 0; i < rowBytes; i++) {
        const at = row * rowBytes + i;
        const a = i >= bytesPerPixel ? out[at - bytesPerPixel] : 0;
        const b = row > 0 ? out[at - rowBytes] : 0;
        const c = row > 0 && i >= bytesPerPixel ? out[at - rowBytes - bytesPerPixel] : 0;
        const distances = [Math.abs(b - c), Math.abs(a - c), Math.abs(a + b - 2 * c)];
        const nearest = [a, b, c][distances.indexOf(Math.min(...distances))];
        out[at] = filtered[row * (rowBytes + 1) + 1 + i] + [0, a, b, (a + b) >> 1, nearest][filter];
      }
    }
    return out;
  }

  const image = fc
    .record({ bytesPerPixel: fc.constantFrom(1, 2, 3, 4, 6, 8), width: fc.integer({ min: 1, max: 45 }), height: fc.integer({ min: 1, max: 6 }) })
    .chain(({ bytesPerPixel, width, height }) => {
      const rowBytes = width * bytesPerPixel;
      return fc.record({
        bytesPerPixel: fc.constant(bytesPerPixel),
        rowBytes: fc.constant(rowBytes),
        height: fc.constant(height),
        filters: fc.array(fc.integer({ min: 0, max: 4 }), { minLength: height, maxLength: height }),
        bytes: fc.uint8Array({ minLength: height * (rowBytes + 1), maxLength: height * (rowBytes + 1) }),
      });
    });

  it('is what the standard says, for every filter and pixel size', () => {
    fc.assert(
      fc.property(image, ({ bytesPerPixel, rowBytes, height, filters, bytes }) => {
        filters.forEach((filter, row) => (bytes[row * (rowBytes + 1)] = filter));
        const rows = unfilterRows(bytes.slice(), rowBytes, height, bytesPerPixel, false) as Uint8Array;
        equal(rows, plainly(bytes, rowBytes, height, bytesPerPixel));
      }),
      { numRuns: 400 },
    );
  });

  it('carries the row above over from piece to piece of a large picture', () => {
    const [rowBytes, height] = [6000, 70];
    const filtered = Uint8Array.from({ length: (rowBytes + 1) * height }, (_, i) =>
      i % (rowBytes + 1) === 0 ? 2 + (Math.floor(i / (rowBytes + 1)) % 3) : (i * 7) & 255,
    );
    const wanted = plainly(filtered, rowBytes, height, 3);
    equal(unfilterRows(filtered.slice(), rowBytes, height, 3, false) as Uint8Array, wanted);
    // The row that is carried over must not be turned round before the next one is added to it.
    const turned = wanted.map((_, i) => wanted[i ^ 1]);
    equal(unfilterRows(filtered.slice(), rowBytes, height, 3, true) as Uint8Array, turned);
  });

  it('names the row whose filter does not exist', () => {
    const filtered = new Uint8Array(6000 * 70);
    filtered[6000 * 61] = 5;
    expect(unfilterRows(filtered, 5999, 70, 3, false)).toBe(61);
  });
});

describe('summing up values', () => {
  function plainly(values: readonly number[], stride: number): ValueSums[] {
    return Array.from({ length: stride }, (_, channel) => {
      const own = values.filter((_, i) => i % stride === channel);
      const numbers = own.filter(Number.isFinite);
      const count = (test: (value: number) => boolean) => own.filter(test).length;
      return {
        min: numbers.reduce((least, value) => Math.min(least, value), Infinity),
        max: numbers.reduce((largest, value) => Math.max(largest, value), -Infinity),
        sum: numbers.reduce((sum, value) => sum + value, 0),
        nan: count(Number.isNaN),
        infinite: count((value) => Math.abs(value) === Infinity),
        negative: count((value) => value < 0 && value > -Infinity),
        zero: count((value) => value === 0),
      };
    });
  }

  function same(found: readonly ValueSums[], wanted: readonly ValueSums[]): void {
    expect(found.length).toBe(wanted.length);
    found.forEach((sums, i) => {
      const size = Math.max(1, Math.abs(wanted[i].max), Math.abs(wanted[i].min));
      expect({ ...sums, sum: 0, min: sums.min + 0, max: sums.max + 0 }).toEqual({ ...wanted[i], sum: 0, min: wanted[i].min + 0, max: wanted[i].max + 0 });
      // Added in another order, so the last digits may differ.
      expect(Math.abs(sums.sum - wanted[i].sum)).toBeLessThanOrEqual(1e-9 * size * 1000);
    });
  }

  const stride = fc.integer({ min: 1, max: 5 });
  const pixels = fc.integer({ min: 0, max: 90 });

  it('is what one value after the other comes to: integers', () => {
    fc.assert(
      fc.property(stride, pixels, fc.infiniteStream(fc.oneof(fc.constantFrom(0, 255), fc.nat(65535))), (stride, pixels, numbers) => {
        const values = [...numbers.take(stride * pixels)];
        same(sumUpValues('u16', Uint16Array.from(values), stride), plainly(values, stride));
        const bytes = values.map((value) => value & 255);
        same(sumUpValues('u8', Uint8Array.from(bytes), stride), plainly(bytes, stride));
      }),
    );
  });

  it('is so for halves, with all that is no number among them', () => {
    const odd = fc.constantFrom(0, 0x8000, 0x7c00, 0xfc00, 0x7e00, 0xfe01, 1, 0x8001, 0x7bff, 0xfbff);
    fc.assert(
      fc.property(stride, pixels, fc.infiniteStream(fc.oneof(odd, fc.nat(65535))), (stride, pixels, numbers) => {
        const bits = [...numbers.take(stride * pixels)];
        same(sumUpValues('half', Uint16Array.from(bits), stride), plainly(bits.map(halfToFloat), stride));
      }),
    );
  });

  it('reads each of the 65,536 halves as what it is', () => {
    for (let bits = 0; bits < 65536; bits += 8) {
      // Eight of each, so that vectors see it, and one of it alone.
      for (const length of [8, 1]) {
        const value = halfToFloat(bits);
        const [sums] = sumUpValues('half', new Uint16Array(length).fill(bits), 1);
        if (Number.isFinite(value)) expect([sums.min + 0, sums.max + 0, sums.sum + 0]).toEqual([value + 0, value + 0, value * length + 0]);
        else expect(sums.nan + sums.infinite).toBe(length);
      }
    }
  });

  it('is so for floats', () => {
    const odd = fc.constantFrom(0, -0, NaN, Infinity, -Infinity, 1.4e-45, -1.4e-45);
    fc.assert(
      fc.property(stride, pixels, fc.infiniteStream(fc.oneof(odd, fc.float({ min: -1000, max: 1000, noNaN: true }))), (stride, pixels, numbers) => {
        const values = Float32Array.from(numbers.take(stride * pixels));
        same(sumUpValues('float', values, stride), plainly([...values], stride));
      }),
    );
  });

  it('adds the pieces of a large picture together', () => {
    const values = Uint8Array.from({ length: 3 * 640 * 360 }, (_, i) => (i * 31) % 251);
    same(sumUpValues('u8', values, 3), plainly([...values], 3));
    const halves = Uint16Array.from({ length: 640 * 360 + 5 }, (_, i) => (i * 13) % 0x7c00);
    const [sums] = sumUpValues('half', halves, 1);
    const wanted = plainly([...halves].map(halfToFloat), 1)[0];
    expect(sums.sum / wanted.sum).toBeCloseTo(1, 12);
    expect([sums.min, sums.max, sums.zero]).toEqual([wanted.min, wanted.max, wanted.zero]);
  });
});

describe('stretches of zeros', () => {
  const pictures = fc.record({
    width: fc.integer({ min: 1, max: 70 }),
    height: fc.integer({ min: 1, max: 6 }),
    stride: fc.constantFrom(1, 2, 3, 4),
    kind: fc.constantFrom('bytes', 'halves', 'floats'),
    values: fc.array(fc.constantFrom(0, 0, 0, 0, 0, 0, 5), { minLength: 1680, maxLength: 1680 }),
  });

  it('are those that one pixel after the other comes to, whatever the samples are', () => {
    fc.assert(
      fc.property(pictures, fc.boolean(), ({ width, height, stride, kind, values }, negative) => {
        const count = width * height * stride;
        const own = values.slice(0, count);
        // A minus zero is a zero.
        const data =
          kind === 'bytes'
            ? Uint8Array.from(own)
            : kind === 'halves'
              ? Uint16Array.from(own, (value) => (value === 0 && negative ? 0x8000 : value))
              : Float32Array.from(own, (value) => (value === 0 && negative ? -0 : value));
        const mask = kind === 'bytes' ? 0xffffffff : kind === 'halves' ? 0x7fff7fff : 0x7fffffff;
        const plain: number[][] = [];
        for (let y = 0; y < height; y++) {
          const isZero = (x: number) => own.slice((y * width + x) * stride, (y * width + x + 1) * stride).every((value) => value === 0);
          for (let x = 0; x < width; x++) {
            if (!isZero(x)) continue;
            const start = x;
            while (x + 1 < width && isZero(x + 1)) x++;
            if (x - start + 1 >= 4) plain.push([y, start, x]);
          }
        }
        const runs = findZeroRuns([{ data, stride, mask }], width, height, 4, 64);
        expect(Array.from({ length: runs.length / 3 }, (_, i) => [...runs.subarray(3 * i, 3 * i + 3)])).toEqual(plain);
      }),
    );
  });

  it('are zero in every array, and a line of many gives one that says so', () => {
    const [a, b] = [new Uint16Array(64), new Float32Array(64)];
    b[20] = 1;
    const arrays = [
      { data: a, stride: 1, mask: 0x7fff7fff },
      { data: b, stride: 1, mask: 0x7fffffff },
    ];
    expect([...findZeroRuns(arrays, 64, 1, 8, 4)]).toEqual([0, 0, 19, 0, 21, 63]);
    expect([...findZeroRuns(arrays, 64, 1, 8, 1)]).toEqual([0, -1, -1]);
  });
});

describe('halved samples at full size', () => {
  it('are weighted three to one, as one sample after the other comes to', () => {
    const samples = fc.record({ width: fc.integer({ min: 3, max: 40 }), height: fc.integer({ min: 1, max: 5 }), down: fc.constantFrom(1, 2) });
    fc.assert(
      fc.property(samples, fc.uint8Array({ minLength: 200, maxLength: 200 }), ({ width, height, down }, bytes) => {
        const plane = { width, height, stride: width, data: bytes.subarray(0, width * height) };
        const [wide, high] = [width * 2 - 1, height * down];
        const { exports, start, bytes: memory } = room(8192);
        memory.set(plane.data, start);
        const out = start + 1024;
        // In two parts, as pictures are widened in strips.
        const upper = Math.floor(high / 3);
        exports.widen(start, width, width, height, wide, 0, upper, down, start + 512, out);
        exports.widen(start, width, width, height, wide, upper, high - upper, down, start + 512, out + upper * wide);
        const found = memory.slice(out, out + wide * high);
        const [shift, even, odd] = down === 2 ? [4, 8, 7] : [2, 1, 2];
        for (let y = 0; y < high; y++) {
          const near = Math.floor(y / down);
          const far = Math.min(height - 1, Math.max(0, near + (y % 2 === 0 ? -1 : 1)));
          const sum = (x: number) => (down === 2 ? 3 * plane.data[near * width + x] + plane.data[far * width + x] : plane.data[near * width + x]);
          for (let x = 0; x < wide; x++) {
            const here = x >> 1;
            const other = Math.min(width - 1, Math.max(0, here + (x % 2 === 0 ? -1 : 1)));
            expect(found[y * wide + x]).toBe((3 * sum(here) + sum(other) + (x % 2 === 0 ? even : odd)) >> shift);
          }
        }
      }),
    );
  });
});
