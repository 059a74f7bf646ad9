import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  bandingOf,
  luminanceOf,
  measureGradients,
  measureTestRenders,
  pairDifference,
  PairError,
  readRenderNotes,
  type DecodedFrame,
  type Luminance,
  type Plane,
} from '../src/index.ts';

/** Normally distributed numbers from a seed (Box and Muller 1958). */
function normals(seed: number): () => number {
  let state = seed >>> 0;
  const uniform = () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return (state + 1) / 4294967297;
  };
  return () => Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform());
}

const [width, height] = [160, 96];
const texture = Float32Array.from({ length: width * height }, (_, i) => 0.5 + 0.4 * Math.sin(i * 0.37) * Math.cos(i * 0.011));

/** A texture with noise on it, as a render of so many samples would have. @param times it stands below itself */
function noisy(seed: number, samples: number, a = 0.2, times = 1): Luminance {
  const next = normals(seed);
  const values = Float32Array.from({ length: times * texture.length }, (_, i) => texture[i % texture.length]! + (next() * a) / Math.sqrt(samples));
  return { width, height: times * height, values };
}

describe('noise from pairs of test renders', () => {
  it('is that of either render, whatever the picture shows', () => {
    const renders = [4, 4, 16, 16, 64, 64].map((samples, i) => ({ samples, seconds: samples / 10, luminance: noisy(i + 1, samples) }));
    const { tests, seeds, spread } = measureTestRenders(renders);
    expect(seeds).toBe('independent');
    expect(spread).toBeLessThan(1.1);
    for (const { samples, noise, seconds } of tests) {
      expect(noise! / (0.2 / Math.sqrt(samples))).toBeCloseTo(1, 1);
      expect(seconds).toBeCloseTo(samples / 10);
    }
  });

  it('is found where every count was rendered once', () => {
    const { tests, seeds } = measureTestRenders([4, 16, 64].map((samples, i) => ({ samples, seconds: null, luminance: noisy(i + 1, samples) })));
    expect(seeds).toBe('independent');
    expect(tests.map(({ samples }) => samples)).toEqual([4, 16, 64]);
    for (const { samples, noise } of tests) expect(noise! / (0.2 / Math.sqrt(samples))).toBeCloseTo(1, 1);
  });

  it.each([
    [1, 0.508],
    [6, 0.717],
  ])('falls sooner than by the square root law where the fewer samples say so, by a part of what they say (%d times as many pixels)', (times, believed) => {
    // Pairs that are alike but for what noise there is: what is found of the law is no matter of chance.
    const variance = (samples: number) => 0.01 / samples + 0.04 / samples ** 1.5;
    const renders = [4, 16, 64].map((samples, i) => ({
      samples,
      seconds: null,
      luminance: noisy(i + 1, samples, Math.sqrt(variance(samples) * samples), times),
    }));
    const { tests, spread } = measureTestRenders(renders);
    const [few, some, many] = tests.map(({ noise, samples }) => noise! ** 2 * samples) as [number, number, number];
    expect(spread).toBeLessThan(1.2);
    // Of 0.04 about half is believed, of many pixels more; the law passes through what 16 and 64 samples differ by.
    const differ = (variance(16) + variance(64)) / (1 / 16 + 1 / 64);
    const edges = (16 ** -1.5 + 64 ** -1.5) / (1 / 16 + 1 / 64);
    const expected = (samples: number) => differ + believed * 0.04 * (samples ** -0.5 - edges);
    expect([few / expected(4), some / expected(16), many / expected(64)]).toEqual([1, 1, 1].map((one) => expect.closeTo(one, 1) as number));
    expect(few / many).toBeGreaterThan(1.3);
  });

  it('knows renders that go on where a shorter one ended', () => {
    // The mean over the first m and the first n of the same random numbers.
    const counts = [4, 16, 64];
    const next = normals(9);
    const sums = new Float32Array(width * height);
    let done = 0;
    const renders = counts.map((samples) => {
      for (; done < samples; done++) for (let i = 0; i < sums.length; i++) sums[i] += next() * 0.2;
      return { samples, seconds: null, luminance: { width, height, values: texture.map((value, i) => value + sums[i] / samples) } };
    });
    const { tests, seeds } = measureTestRenders(renders);
    expect(seeds).toBe('continued');
    for (const { samples, noise } of tests) expect(noise! / (0.2 / Math.sqrt(samples))).toBeCloseTo(1, 1);
  });

  it('says nothing of one picture, or of the same one twice', () => {
    const one = { samples: 4, seconds: 1, luminance: noisy(1, 4) };
    expect(measureTestRenders([one]).tests).toEqual([{ samples: 4, noise: null, seconds: 1 }]);
    expect(measureTestRenders([one, one]).tests[0].noise).toBeNull();
    expect(measureTestRenders([])).toMatchObject({ tests: [], seeds: 'unknown' });
  });

  it('refuses pictures of different sizes', () => {
    expect(() => pairDifference(noisy(1, 4), { width: 2, height: 1, values: new Float32Array(2) })).toThrow(PairError);
  });

  it('leaves out pixels that have no number', () => {
    const broken = noisy(2, 4);
    broken.values[7] = NaN;
    broken.values[9] = Infinity;
    expect(pairDifference(noisy(1, 4), broken)).toBeCloseTo((0.2 / 2) * Math.SQRT2, 2);
  });
});

describe('luminance', () => {
  const plane = (channel: string, type: Plane['type'], values: number[]): Plane => ({
    channel,
    type,
    width: values.length,
    height: 1,
    data: type === 'float' ? Float32Array.from(values) : Uint16Array.from(values),
    offset: 0,
    stride: 1,
  });
  const frame = (...planes: Plane[]) => ({ header: {}, planes }) as unknown as DecodedFrame;

  it('weighs red, green and blue as BT.709 does', () => {
    const { values } = luminanceOf(frame(plane('B', 'float', [1, 0]), plane('G', 'float', [1, 0]), plane('R', 'float', [1, 2])))!;
    expect(values[0]).toBeCloseTo(1, 6);
    expect(values[1]).toBeCloseTo(0.4252, 6);
  });
  it('reads halves as they are and integers as shares', () => {
    expect(luminanceOf(frame(plane('Y', 'half', [0x3c00, 0x3800])))!.values).toEqual(Float32Array.from([1, 0.5]));
    expect(luminanceOf(frame(plane('Y', 'u16', [65535, 0])))!.values[0]).toBeCloseTo(1, 6);
  });
  it('takes a layer’s own channels, and none where there is no colour', () => {
    const layers = frame(...['diffuse.R', 'diffuse.G', 'diffuse.B', 'Z'].map((name, i) => plane(name, 'float', [i + 1])));
    expect(luminanceOf(layers)).toBeNull();
    expect(luminanceOf(layers, ['diffuse.R', 'diffuse.G', 'diffuse.B'])!.values[0]).toBeCloseTo(0.2126 + 2 * 0.7152 + 3 * 0.0722, 5);
  });
});

describe('soft gradients', () => {
  /** A ramp of encoded values over the width, with noise. */
  const ramp = (from: number, to: number, noise = 0, linear = false): Luminance => {
    const next = normals(5);
    const decode = (value: number) => (linear ? (value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4) : value);
    return {
      width,
      height,
      values: Float32Array.from({ length: width * height }, (_, i) => decode(from + ((to - from) * (i % width)) / (width - 1) + next() * noise)),
    };
  };

  it('are measured by how far they go over 32 pixels', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 0.5, noNaN: true }), fc.double({ min: 0.01, max: 0.2, noNaN: true }), fc.boolean(), (from, rise, linear) => {
        const found = measureGradients(ramp(from, from + rise, 0, linear), linear)!;
        expect(found.span).toBeCloseTo((rise * 31) / (width - 1), 4);
        expect(found.share).toBe(1);
        expect(found.noise).toBeLessThan(2e-4);
      }),
      { numRuns: 20 },
    );
  });

  it('band in 8 bits, not in 12, and not where noise hides the steps', () => {
    const clean = measureGradients(ramp(0.3, 0.35), false)!;
    const eight = bandingOf(clean, 8);
    expect(eight.codes).toBeCloseTo((0.05 * 31 * 255) / 159, 1);
    expect(eight.stepPixels).toBeCloseTo(32 / eight.codes, 6);
    expect(eight.visible).toBe(true);
    expect(bandingOf(clean, 12).visible).toBe(false);
    expect(bandingOf(measureGradients(ramp(0.3, 0.35, 0.8 / 255), false)!, 8).visible).toBe(false);
  });

  it('are not found in an even, a steep or a textured picture', () => {
    expect(measureGradients(ramp(0.4, 0.4), false)).toBeNull();
    expect(measureGradients(ramp(0, 1), false)).toBeNull();
    expect(measureGradients({ width, height, values: texture }, false)).toBeNull();
  });
});

describe('what a renderer noted', () => {
  it.each([
    [
      { samples: 64, renderTime: 12.5 },
      { samples: 64, seconds: 12.5 },
    ],
    [
      { 'studio/Samples': '128', 'studio/RenderTime': '02:03.50' },
      { samples: 128, seconds: 123.5 },
    ],
    [
      { spp: 16, render_time: '1:00:01' },
      { samples: 16, seconds: 3601 },
    ],
    [
      { 'a.pixel_samples': 9, 'a.render time (s)': 4 },
      { samples: 9, seconds: null },
    ],
    [
      { samples: 'many', renderTime: 'long' },
      { samples: null, seconds: null },
    ],
    [
      { samples: 1.5, renderTime: -1 },
      { samples: null, seconds: null },
    ],
    [{ subsamples: 4 }, { samples: null, seconds: null }],
  ])('%o', (metadata, notes) => {
    expect(readRenderNotes(metadata)).toEqual(notes);
  });
});
