import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatFrameRange, FrameSet, joinSittings, meanFigure, toldBy, type DenoiseFigures } from '../src/index.ts';

interface Frame {
  readonly noise: number;
  readonly temporal: number | null;
  readonly fireflies: number;
}

const frame = fc.record({
  noise: fc.double({ min: 0.001, max: 10, noNaN: true }),
  temporal: fc.option(fc.double({ min: 0.001, max: 10, noNaN: true })),
  fireflies: fc.nat(20),
});

const mean = (values: readonly number[]) => (values.length === 0 ? null : values.reduce((sum, one) => sum + one, 0) / values.length);

/** What a sitting tells that did these frames, behind some that were there. */
function sitting(frames: readonly Frame[], there = 0): DenoiseFigures {
  return {
    written: there + frames.length,
    told: frames.length,
    frames: frames.length === 0 ? '' : formatFrameRange(FrameSet.range(there + 1, there + frames.length)),
    noiseBefore: mean(frames.map(({ noise }) => noise * 4)),
    noise: mean(frames.map(({ noise }) => noise)),
    temporalBefore: null,
    // In a sitting it is known of all frames, or of none.
    temporalNoise: frames.some(({ temporal }) => temporal === null) ? null : mean(frames.map(({ temporal }) => temporal!)),
    detail: null,
    isReferred: false,
    filtered: frames.length + 2,
    secondsEach: 1.5,
    threads: 2,
    missing: '',
    unreadable: '',
    fireflies: frames.reduce((sum, { fireflies }) => sum + fireflies, 0),
    holes: 3,
    lacking: [],
    lights: [],
  };
}

describe('what was done in several sittings', () => {
  it('comes to what it would have in one', () => {
    fc.assert(
      fc.property(fc.array(frame, { minLength: 1, maxLength: 30 }), fc.array(fc.nat(30), { maxLength: 3 }), (frames, pauses) => {
        const cuts = [0, ...pauses.map((at) => Math.min(at, frames.length)).sort((a, b) => a - b), frames.length];
        const sittings = cuts.slice(1).map((end, i) => sitting(frames.slice(cuts[i], end), cuts[i]));
        const joined = sittings.reduce(joinSittings);
        const whole = sitting(frames);
        expect([joined.written, joined.told, joined.frames, joined.fireflies]).toEqual([whole.written, whole.told, whole.frames, whole.fireflies]);
        expect(joined.noise! / whole.noise!).toBeCloseTo(1, 9);
        expect(joined.noiseBefore! / whole.noiseBefore!).toBeCloseTo(1, 9);
        expect(joined.temporalBefore).toBeNull();
        expect(joined.secondsEach).toBeCloseTo(1.5, 9);
        // Frames that are filtered anew, beside those that are left, are counted each time; and so are what all of them hold.
        expect(joined.filtered).toBe(frames.length + 2 * sittings.length);
        expect(joined.holes).toBe(3 * sittings.length);
      }),
    );
  });

  it('leaves out of a mean the sittings that do not know it', () => {
    const known = { noise: 1, temporal: 0.5, fireflies: 0 };
    const unknown = { noise: 1, temporal: null, fireflies: 0 };
    const [first, second] = [sitting([known, known]), sitting([unknown, unknown, unknown], 2)];
    expect(joinSittings(first, second).temporalNoise).toBe(0.5);
    expect(joinSittings(second, first).temporalNoise).toBe(0.5);
    expect(joinSittings(second, second).temporalNoise).toBeNull();
    expect(meanFigure([], 'noise')).toBeNull();
  });

  it('counts what was kept before sittings were told apart as told by all that was written', () => {
    const old: DenoiseFigures = { ...sitting([{ noise: 1, temporal: 1, fireflies: 0 }]), written: 10, told: null };
    expect(toldBy(old)).toBe(10);
    expect(meanFigure([old, sitting(Array(10).fill({ noise: 3, temporal: 1, fireflies: 0 }))], 'noise')).toBe(2);
  });
});
