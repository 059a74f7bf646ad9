import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  floatToHalf,
  halfToFloat,
  measurePixels,
  readThumbnail,
  thumbnailDistance,
  type DecodedFrame,
  type FrameHeader,
  type Plane,
  type PixelFacts,
} from '../src/index.ts';
import { tools } from './tools.ts';

const header = (width: number, height: number): FrameHeader => ({
  format: 'exr',
  width,
  height,
  pixelAspect: 1,
  channels: [],
  namedChannels: true,
  compression: 'none',
  dataWindow: [0, 0, width - 1, height - 1],
  displayWindow: [0, 0, width - 1, height - 1],
  metadata: {},
});

function plane(channel: string, type: Plane['type'], width: number, height: number, data: Plane['data'], offset = 0, stride = 1): Plane {
  return { channel, type, width, height, data, offset, stride };
}

function measure(width: number, height: number, planes: readonly Plane[]): PixelFacts {
  const frame: DecodedFrame = { header: header(width, height), planes };
  return measurePixels(frame, tools);
}

/** A frame of one value, as floats, with some pixels changed. */
function flat(width: number, height: number, value: number, change: (x: number, y: number) => number | null = () => null): Plane {
  const data = Float32Array.from({ length: width * height }, (_, i) => change(i % width, Math.floor(i / width)) ?? value);
  return plane('Y', 'float', width, height, data);
}

describe('the facts of a channel', () => {
  /** The same, the slow way. */
  function slowly(values: readonly number[]) {
    const finite = values.filter((value) => Number.isFinite(value));
    return {
      min: finite.length > 0 ? Math.min(...finite) : null,
      max: finite.length > 0 ? Math.max(...finite) : null,
      mean: finite.length > 0 ? finite.reduce((sum, value) => sum + value, 0) / finite.length : null,
      nan: values.filter((value) => Number.isNaN(value)).length,
      infinite: values.filter((value) => Math.abs(value) === Infinity).length,
      negative: finite.filter((value) => value < 0).length,
    };
  }

  function expectSame(facts: PixelFacts['channels'][number], values: readonly number[]) {
    const slow = slowly(values);
    for (const name of ['nan', 'infinite', 'negative'] as const) expect(facts[name], name).toBe(slow[name]);
    for (const name of ['min', 'max', 'mean'] as const) {
      if (slow[name] === null) expect(facts[name]).toBeNull();
      else expect(Math.abs(facts[name]! - slow[name]!)).toBeLessThanOrEqual(1e-6 * Math.max(1e-9, ...values.filter(Number.isFinite).map(Math.abs)));
    }
    const zeros = values.filter((value) => value === 0).length / values.length;
    expect(Math.abs(facts.zero - zeros)).toBeLessThan(2e-6);
  }

  it('are those of its values, for halves of every kind', () => {
    fc.assert(
      fc.property(fc.uint16Array({ minLength: 1, maxLength: 300 }), (bits) => {
        const [facts] = measure(bits.length, 1, [plane('Z', 'half', bits.length, 1, bits)]).channels;
        expectSame(facts, Array.from(bits, halfToFloat));
      }),
    );
  });

  it('are those of its values, for floats', () => {
    fc.assert(
      fc.property(fc.float32Array({ minLength: 1, maxLength: 300 }), (values) => {
        const [facts] = measure(values.length, 1, [plane('Z', 'float', values.length, 1, values)]).channels;
        expectSame(facts, [...values]);
      }),
    );
  });

  it('are told as shares of the largest code, for interleaved integers', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 3, maxLength: 300 }), (bytes) => {
        const pixels = Math.floor(bytes.length / 3);
        const data = bytes.slice(0, pixels * 3);
        const planes = ['R', 'G', 'B'].map((name, c) => plane(name, 'u8', pixels, 1, data, c, 3));
        measure(pixels, 1, planes).channels.forEach((facts, c) =>
          expectSame(
            facts,
            [...data].filter((_, i) => i % 3 === c).map((value) => value / 255),
          ),
        );
      }),
    );
  });

  it('have a checksum that is the same for the same values only', () => {
    const data = Uint16Array.from({ length: 64 }, (_, i) => i * 77);
    const other = data.slice();
    other[20]++;
    const hashOf = (values: Uint16Array) => measure(8, 8, [plane('Z', 'half', 8, 8, values)]).channels[0].hash;
    expect(hashOf(data)).toBe(hashOf(data.slice()));
    expect(hashOf(data)).not.toBe(hashOf(other));
  });
});

describe('stretches that were never written', () => {
  const regions = (width: number, height: number, change: (x: number, y: number) => number | null) =>
    measure(width, height, [flat(width, height, 0.5, change)]).emptyRegions;
  const inside = (x: number, y: number, [left, top, width, height]: readonly number[]) => x >= left && x < left + width && y >= top && y < top + height;

  it('are found as they are, whatever rectangle of eight and more pixels a side', () => {
    const box = fc.tuple(fc.integer({ min: 0, max: 40 }), fc.integer({ min: 0, max: 30 }), fc.integer({ min: 8, max: 20 }), fc.integer({ min: 8, max: 14 }));
    fc.assert(
      fc.property(box, ([x, y, width, height]) => {
        expect(regions(64, 48, (px, py) => (inside(px, py, [x, y, width, height]) ? 0 : null))).toEqual([
          expect.objectContaining({ x, y, width, height, pixels: width * height }),
        ]);
      }),
    );
  });

  it('are found where whole lines begin or end inside one', () => {
    // From the middle of line 20 to the middle of line 30: a block of the disk.
    const [found] = regions(64, 48, (x, y) => (y * 64 + x >= 20 * 64 + 32 && y * 64 + x < 30 * 64 + 20 ? 0 : null));
    expect(found).toMatchObject({ y: 20, height: 11, pixels: 10 * 64 - 12 });
  });

  it('are not a round black thing, nor specks, nor noise around zero, nor a blank frame', () => {
    expect(regions(64, 48, (x, y) => (Math.hypot(x - 32, y - 24) < 15 ? 0 : null))).toEqual([]);
    expect(regions(64, 48, (x, y) => ((x * 7 + y * 13) % 5 === 0 ? 0 : null))).toEqual([]);
    expect(regions(64, 48, (x, y) => ((x * 31 + y * 17) % 7) - 3)).toEqual([]);
    expect(regions(64, 48, () => 0)).toEqual([]);
  });

  it('are no ball, however small, that has no light of its own', () => {
    const ball = fc.tuple(
      fc.double({ min: 20, max: 40, noNaN: true }),
      fc.double({ min: 16, max: 32, noNaN: true }),
      fc.double({ min: 3, max: 14, noNaN: true }),
    );
    fc.assert(
      fc.property(ball, ([x, y, radius]) => {
        expect(regions(64, 48, (px, py) => (Math.hypot(px - x, py - y) < radius ? 0 : null))).toEqual([]);
      }),
      { numRuns: 1000 },
    );
  });

  it('are known for what stands around them: a picture, or flat colours as a drawing has', () => {
    const hole = (x: number, y: number) => inside(x, y, [16, 8, 16, 16]);
    const livingIn = (around: (x: number, y: number) => number) => regions(64, 48, (x, y) => (hole(x, y) ? 0 : around(x, y)))[0].living;
    expect(livingIn((x, y) => 0.1 + ((x * 37 + y * 101) % 89) / 100)).toBe(1);
    expect(livingIn((x, y) => 0.2 + (x + y) / 200)).toBe(1);
    expect(livingIn(() => 0.7)).toBeLessThan(0.3);
    expect(livingIn((x) => (x < 30 ? 0.7 : 0.2))).toBeLessThan(0.5);
  });

  it('are zero in every channel: what one channel lacks is a colour', () => {
    const hole = flat(64, 48, 0.5, (x, y) => (inside(x, y, [16, 16, 16, 16]) ? 0 : null));
    const whole = { ...flat(64, 48, 0.5), channel: 'B' };
    expect(measure(64, 48, [hole, whole]).emptyRegions).toEqual([]);
    expect(measure(64, 48, [hole, { ...hole, channel: 'B' }]).emptyRegions).toHaveLength(1);
  });
});

describe('a thumbnail', () => {
  const thumbnail = (planes: readonly Plane[], width = 48, height = 32) => readThumbnail(measure(width, height, planes).layers[0].thumbnail)!;

  it('is further away the further a thing has moved', () => {
    const at = (place: number) => thumbnail([flat(48, 32, 0.1, (x, y) => (Math.hypot(x - place, y - 16) < 8 ? 2 : null))]);
    const from = at(12);
    const distances = [12, 14, 18, 24].map((place) => thumbnailDistance(from, at(place)));
    expect(distances[0]).toBe(0);
    for (let i = 1; i < distances.length; i++) expect(distances[i]).toBeGreaterThan(distances[i - 1]);
  });

  it('is not ruled by one very bright pixel, and survives what is no number', () => {
    const plain = thumbnail([flat(48, 32, 0.1)]);
    const spark = thumbnail([flat(48, 32, 0.1, (x, y) => (x === 5 && y === 5 ? 60000 : null))]);
    const broken = thumbnail([flat(48, 32, 0.1, (x, y) => (x === 5 && y === 5 ? NaN : x === 6 && y === 5 ? Infinity : null))]);
    expect(thumbnailDistance(plain, spark)).toBeLessThan(0.01);
    expect(thumbnailDistance(plain, broken)).toBeLessThan(0.02);
    expect(readThumbnail('no thumbnail')).toBeNull();
  });

  it('shows a data window where it lies in the picture', () => {
    const data = flat(24, 32, 0.5).data;
    const frame = (left: number): DecodedFrame => ({
      header: { ...header(48, 32), dataWindow: [left, 0, left + 23, 31] },
      planes: [plane('Y', 'float', 24, 32, data)],
    });
    const cells = readThumbnail(measurePixels(frame(24), tools).layers[0].thumbnail)!;
    expect(cells[0]).toBeCloseTo(0, 3);
    expect(cells[11]).toBeCloseTo(1 / 3, 3);
  });
});

describe('an alpha', () => {
  /** A soft disc: colours multiplied in or not. */
  function disc(straight: boolean): PixelFacts {
    const [width, height] = [64, 48];
    const data = new Uint16Array(width * height * 4);
    for (let i = 0; i < width * height; i++) {
      const alpha = Math.min(1, Math.max(0, (20 - Math.hypot((i % width) - 32, Math.floor(i / width) - 24)) / 12));
      for (let c = 0; c < 3; c++) data[i * 4 + c] = floatToHalf(0.7 * (straight ? 1 : alpha));
      data[i * 4 + 3] = floatToHalf(alpha);
    }
    return measure(
      width,
      height,
      ['R', 'G', 'B', 'A'].map((name, c) => plane(name, 'half', width, height, data, c, 4)),
    );
  }

  it('is exceeded by straight colours, which do not fade with it', () => {
    const { alpha } = disc(true).layers[0];
    expect(alpha).toMatchObject({ min: 0, max: 1, colourWithoutAlpha: 1 });
    expect(alpha!.thinColour! / alpha!.thickColour!).toBeCloseTo(1, 2);
    expect(alpha!.exceeding).toBeGreaterThan(0.5);
  });

  it('is not exceeded by colours that are multiplied in', () => {
    const { alpha } = disc(false).layers[0];
    expect(alpha).toMatchObject({ exceeding: 0, colourWithoutAlpha: 0 });
    expect(alpha!.thinColour! / alpha!.thickColour!).toBeLessThan(0.4);
  });

  it('is measured for each layer by itself', () => {
    const one = Float32Array.from({ length: 16 }, () => 1);
    const names = ['R', 'G', 'B', 'A', 'key.R', 'key.G', 'key.B', 'Z'];
    const { layers } = measure(
      4,
      4,
      names.map((name) => plane(name, 'float', 4, 4, one)),
    );
    expect(layers.map(({ name, alpha }) => [name, alpha?.max ?? null])).toEqual([
      ['', 1],
      ['key', null],
    ]);
  });
});
