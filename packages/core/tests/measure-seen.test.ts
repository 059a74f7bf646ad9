import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  encodeExr,
  floatToHalf,
  histogramOf,
  inspectFrameFile,
  memorySource,
  packPicture,
  pixelOf,
  regionSums,
  WAVEFORM_LEVELS,
  waveformOf,
  type DecodedFrame,
  type PixelWindow,
  type SentPicture,
} from '../src/index.ts';
import { tools } from './tools.ts';

const [WIDTH, HEIGHT] = [8, 6];
/** A frame whose data window begins two pixels right of and one above the display window's corner. */
const dataWindow: PixelWindow = [12, 19, 12 + WIDTH - 1, 19 + HEIGHT - 1];
const displayWindow: PixelWindow = [10, 20, 29, 39];
const valueAt = (x: number, y: number) => x + y / 16;

function frame(values: (x: number, y: number) => number = valueAt): DecodedFrame {
  const all = Array.from({ length: WIDTH * HEIGHT }, (_, i) => values(i % WIDTH, Math.floor(i / WIDTH)));
  const bytes = encodeExr(
    {
      dataWindow,
      displayWindow,
      pixelAspect: 1,
      compression: 'zip',
      metadata: {},
      channels: [
        { name: 'R', type: 'half', data: Uint16Array.from(all, floatToHalf) },
        { name: 'depth.Z', type: 'float', data: Float32Array.from(all, (value) => value * 1e6) },
        { name: 'id', type: 'uint', data: Uint32Array.from(all, (value) => Math.floor(Math.abs(value) || 0) * 1e9) },
      ],
    },
    tools,
  );
  return inspectFrameFile(memorySource(bytes), 'a.exr', 'full', tools).frame!;
}
const sent = (one: DecodedFrame, reduce = 1): SentPicture => packPicture(one, { layer: ['R'], only: null, region: null, reduce })!;

describe('a pixel', () => {
  it('has the values of every channel, as the file has them, where the display window has it', () => {
    // The display window's pixel 5, 3 is the data window's 3, 4.
    expect(pixelOf(frame(), 5, 3).map(({ channel, type, value }) => [channel, type, value])).toEqual([
      ['R', 'half', 3.25],
      ['id', 'uint', 3_000_000_000],
      ['depth.Z', 'float', 3_250_000],
    ]);
  });

  it('beside the data window has none', () => {
    for (const [x, y] of [
      [1, 3],
      [2 + WIDTH, 3],
      [5, -2],
      [5, HEIGHT - 1],
    ] as const)
      expect(pixelOf(frame(), x, y)).toEqual([]);
    expect(pixelOf(frame(), 2, -1)).toHaveLength(3);
  });
});

describe('a region', () => {
  it('comes to least, mean and most of its pixels, and takes none from beside the data window', () => {
    const side = fc.integer({ min: -6, max: 16 });
    const length = fc.integer({ min: 1, max: 20 });
    const picture = sent(frame());
    fc.assert(
      fc.property(side, side, length, length, (left, top, width, height) => {
        const values: number[] = [];
        for (let y = top; y < top + height; y++)
          for (let x = left; x < left + width; x++)
            values.push(
              ...pixelOf(frame(), x, y)
                .slice(0, 1)
                .map(({ value }) => value),
            );
        const [sum] = regionSums(picture, [left, top, width, height]);
        if (values.length === 0) expect([sum!.least, sum!.mean, sum!.most]).toEqual([NaN, NaN, NaN]);
        else {
          expect([sum!.least, sum!.most]).toEqual([Math.min(...values), Math.max(...values)]);
          expect(sum!.mean).toBeCloseTo(values.reduce((total, value) => total + value, 0) / values.length, 6);
        }
      }),
      { numRuns: 40 },
    );
  });

  it('tells what is no finite number apart', () => {
    const odd = sent(frame((x, y) => (x === 0 && y === 0 ? NaN : x === 1 && y === 0 ? Infinity : 2)));
    expect(regionSums(odd, [0, -5, 50, 50])).toEqual([{ channel: 'R', least: 2, mean: 2, most: 2, odd: 2 }]);
  });
});

describe('histogram and waveform', () => {
  it('count every pixel once', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 30 }), fc.integer({ min: 1, max: 9 }), fc.integer({ min: 1, max: 40 }), (width, height, columns) => {
        const seen = Uint8ClampedArray.from({ length: width * height * 4 }, (_, i) => (i * 37) % 256);
        const histogram = histogramOf(seen);
        for (const channel of [0, 1, 2])
          expect(histogram.slice(channel * 256, channel * 256 + 256).reduce((sum, count) => sum + count, 0)).toBe(width * height);
        expect(waveformOf(seen, width, columns).reduce((sum, count) => sum + count, 0)).toBe(width * height);
      }),
    );
  });

  it('put black below and white above, left to the left', () => {
    const seen = Uint8ClampedArray.of(0, 0, 0, 255, 255, 255, 255, 255);
    const waveform = waveformOf(seen, 2, 2);
    expect([waveform[0], waveform[2 * WAVEFORM_LEVELS - 1]]).toEqual([1, 1]);
    expect([histogramOf(seen)[0], histogramOf(seen)[255]]).toEqual([1, 1]);
  });
});
