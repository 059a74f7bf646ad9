import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { directionAfter, parseFrameRate, placeAfter, placesAfter, type Course, type LoopMode } from '../src/index.ts';

const rate = fc.constantFrom('24', '25', '23.976', '30', '29.97', '60', '12.5').map(parseFrameRate);

describe('the place that time demands', () => {
  it('is the whole number of places that have passed, whatever the rate', () => {
    fc.assert(
      fc.property(
        rate,
        fc.integer({ min: 0, max: 200_000 }),
        fc.integer({ min: 1, max: 10 }),
        fc.double({ min: 0.01, max: 0.99, noNaN: true }),
        (fps, place, hold, share) => {
          // Some way into the place's own time.
          const seconds = ((place + share) * hold * fps.denominator) / fps.numerator;
          expect(placesAfter(seconds, fps, hold)).toBe(place);
        },
      ),
    );
  });

  it('has not drifted by a frame after ten minutes', () => {
    for (const [text, frames] of [
      ['24', 14400],
      ['25', 15000],
      ['23.976', 14385],
      ['29.97', 17982],
    ] as const)
      expect(placesAfter(600, parseFrameRate(text))).toBe(frames);
  });
});

describe('a course', () => {
  const course = (loop: LoopMode) =>
    fc.integer({ min: 1, max: 40 }).chain((count) =>
      fc.record({
        count: fc.constant(count),
        start: fc.integer({ min: 0, max: count - 1 }),
        direction: fc.constantFrom<1 | -1>(1, -1),
        loop: fc.constant(loop),
      }),
    );
  const places = (one: Course, steps: number) => Array.from({ length: steps }, (_, passed) => placeAfter(passed, one).place);

  it('goes around: a step at a time, from the end to the beginning', () => {
    fc.assert(
      fc.property(course('around'), (one) => {
        const seen = places(one, one.count * 2 + 1);
        expect(seen[0]).toBe(one.start);
        for (let i = 1; i < seen.length; i++) expect(seen[i]).toBe((seen[i - 1]! + one.direction + one.count) % one.count);
      }),
    );
  });

  it('goes back and forth: never further than a step, both ends once a turn', () => {
    fc.assert(
      fc.property(course('back and forth'), (one) => {
        const turn = Math.max(1, 2 * (one.count - 1));
        const seen = places(one, turn + 1);
        expect(seen[0]).toBe(one.start);
        expect(seen.at(-1)).toBe(one.start);
        for (let i = 1; i < seen.length; i++) {
          if (one.count > 1) expect(Math.abs(seen[i]! - seen[i - 1]!)).toBe(1);
          if (one.count > 1) expect(directionAfter(i - 1, one)).toBe(seen[i]! - seen[i - 1]!);
        }
        if (one.count > 2) expect(seen.slice(1).filter((place) => place === 0 || place === one.count - 1)).toHaveLength(2);
      }),
    );
  });

  it('played once stops at its end when the time of the last place is over', () => {
    fc.assert(
      fc.property(course('once'), (one) => {
        const left = one.direction > 0 ? one.count - 1 - one.start : one.start;
        const last = one.direction > 0 ? one.count - 1 : 0;
        expect(placeAfter(left, one)).toEqual({ place: last, ended: false });
        expect(placeAfter(left + 1, one)).toEqual({ place: last, ended: true });
        expect(placeAfter(left + 1000, one)).toEqual({ place: last, ended: true });
      }),
    );
  });
});
