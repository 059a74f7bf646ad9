import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  fitNoise,
  fitTime,
  FrameSet,
  noiseAt,
  parseFrameRange,
  samplesForNoise,
  samplesForSeconds,
  scoutOrder,
  secondsAt,
  timesOutside,
  wallSeconds,
  type TestRender,
} from '../src/index.ts';

const positive = (min: number, max: number) => fc.double({ min, max, noNaN: true });

/** Test frames that follow the two laws exactly. */
const tests = (a: number, c: number, t0: number, t1: number, counts: readonly number[]): TestRender[] =>
  counts.map((samples) => ({ samples, noise: Math.sqrt((a * a) / samples + c * c), seconds: t0 + t1 * samples }));

describe('the fit of noise', () => {
  it('finds the law that made the test frames, and predicts counts that it did not see', () => {
    fc.assert(
      fc.property(positive(0.01, 2), positive(0, 0.05), (a, c) => {
        const fit = fitNoise(tests(a, c, 1, 1, [4, 16, 64]))!;
        for (const samples of [8, 256, 1024]) expect(noiseAt(fit, samples) / Math.sqrt((a * a) / samples + c * c)).toBeCloseTo(1, 6);
      }),
    );
  });

  it('finds noise that falls sooner than as the square root of the samples, as that of edges does', () => {
    fc.assert(
      fc.property(positive(0, 2), positive(0.01, 2), (a, b) => {
        const noiseOf = (samples: number) => Math.sqrt((a * a) / samples + (b * b) / samples ** 1.5);
        const fit = fitNoise([4, 16, 64].map((samples) => ({ samples, noise: noiseOf(samples), seconds: null })))!;
        expect(fit.c).toBe(0);
        for (const samples of [8, 256, 1024]) expect(noiseAt(fit, samples) / noiseOf(samples)).toBeCloseTo(1, 6);
      }),
    );
  });

  it('falls as the square root of the samples where there is no floor', () => {
    const fit = fitNoise(tests(1, 0, 1, 1, [16, 64]))!;
    expect(noiseAt(fit, 400) / noiseAt(fit, 100)).toBeCloseTo(0.5, 9);
    expect(fit.c).toBe(0);
  });

  it('has no negative floor, however the measurements scatter', () => {
    const scattered = [
      { samples: 4, noise: 0.5, seconds: null },
      { samples: 16, noise: 0.2, seconds: null },
      { samples: 64, noise: 0.05, seconds: null },
    ];
    const fit = fitNoise(scattered)!;
    expect(fit.c).toBe(0);
    expect(noiseAt(fit, 256)).toBeLessThan(noiseAt(fit, 64));
    // Noise that rises with the samples is no sampling noise at all: all of it is floor.
    const rising = fitNoise([
      { samples: 4, noise: 0.1, seconds: null },
      { samples: 64, noise: 0.2, seconds: null },
    ])!;
    expect(rising.a).toBe(0);
  });

  it('needs two sample counts', () => {
    expect(fitNoise([])).toBeNull();
    expect(
      fitNoise([
        { samples: 16, noise: 0.1, seconds: 1 },
        { samples: 16, noise: 0.11, seconds: 1 },
      ]),
    ).toBeNull();
    expect(
      fitNoise([
        { samples: 16, noise: 0.1, seconds: 1 },
        { samples: 64, noise: null, seconds: 1 },
      ]),
    ).toBeNull();
  });
});

describe('the samples for a target', () => {
  it('are the fewest that reach it', () => {
    fc.assert(
      fc.property(positive(0, 2), positive(0, 2), positive(0, 0.02), positive(0.03, 0.4), (a, b, c, target) => {
        const fit = { a, b, c, from: 4, to: 64 };
        const samples = samplesForNoise(fit, target)!;
        expect(noiseAt(fit, samples)).toBeLessThanOrEqual(target * (1 + 1e-6));
        if (samples > 1) expect(noiseAt(fit, samples - 1)).toBeGreaterThan(target * (1 - 1e-6));
      }),
    );
  });

  it('are none below the floor', () => {
    expect(samplesForNoise({ a: 1, b: 0, c: 0.1, from: 4, to: 64 }, 0.1)).toBeNull();
    expect(samplesForNoise({ a: 1, b: 0, c: 0.1, from: 4, to: 64 }, 0.05)).toBeNull();
  });

  it('say how far outside the measured ones they lie', () => {
    const fit = { a: 1, b: 0, c: 0, from: 8, to: 64 };
    expect([2, 8, 30, 64, 640].map((samples) => timesOutside(fit, samples))).toEqual([4, 1, 1, 1, 10]);
  });
});

describe('the fit of time', () => {
  it('finds what a frame costs before its first sample, and each sample', () => {
    fc.assert(
      fc.property(positive(0, 20), positive(0.01, 2), (t0, t1) => {
        const fit = fitTime(tests(1, 0, t0, t1, [4, 16, 64]))!;
        expect(secondsAt(fit, 500)).toBeCloseTo(t0 + 500 * t1, 4);
        const paid = samplesForSeconds(fit, 100);
        expect(secondsAt(fit, paid)).toBeLessThanOrEqual(100 + 1e-6);
        expect(secondsAt(fit, paid + 1)).toBeGreaterThan(100 - 1e-6);
      }),
    );
  });

  it('pays for nothing when a frame costs more before its first sample', () => {
    expect(samplesForSeconds({ t0: 10, t1: 1, from: 1, to: 2 }, 5)).toBe(0);
  });

  it('shares whole frames out over the machines', () => {
    expect(wallSeconds(100, 10, 1)).toBe(1000);
    expect(wallSeconds(100, 10, 3)).toBe(340);
    expect(wallSeconds(2, 10, 8)).toBe(10);
  });
});

describe('the scout order', () => {
  it('sends the first, the last and the middle ahead, then halves the gaps', () => {
    expect(scoutOrder(parseFrameRange('1-9'), 2)).toEqual({ scouts: [1, 9, 5, 3, 7], rest: [2, 4, 6, 8] });
    expect(scoutOrder(FrameSet.empty, 5)).toEqual({ scouts: [], rest: [] });
    expect(scoutOrder(parseFrameRange('7'), 5)).toEqual({ scouts: [7], rest: [] });
  });

  it('renders every ordered frame once and leaves no gap wider than asked', () => {
    const frames = fc.uniqueArray(fc.integer({ min: -300, max: 300 }), { minLength: 1, maxLength: 120 });
    fc.assert(
      fc.property(frames, fc.integer({ min: 1, max: 40 }), (list, every) => {
        const set = FrameSet.of(list);
        const { scouts, rest } = scoutOrder(set, every);
        expect(FrameSet.of([...scouts, ...rest]).equals(set)).toBe(true);
        expect(scouts.length + rest.length).toBe(set.size);
        expect(scouts[0]).toBe(set.first);
        const places = scouts.map((frame) => set.indexOf(frame)).sort((a, b) => a - b);
        for (let i = 1; i < places.length; i++) expect(places[i] - places[i - 1]).toBeLessThanOrEqual(Math.max(1, every));
      }),
    );
  });
});
