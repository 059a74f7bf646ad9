import { describe, expect, it } from 'vitest';
import { rowQuerySchema } from '$lib/files/file-row';
import { matches } from '$lib/docket/groups';
import { makeBarLane } from '$lib/ribbon/draw-figures';
import type { ShownFinding } from '$lib/server/shot-state';

const finding = (change: Partial<ShownFinding>) => ({ family: 'kind', pass: 'beauty', severity: 'warning', ...change }) as ShownFinding;
const all = { family: '', pass: '', severity: '' };

describe('the docket’s filter', () => {
  it('shows everything when nothing is asked for', () => {
    expect(matches(finding({}), all)).toBe(true);
    expect(matches(finding({ pass: null }), all)).toBe(true);
  });

  it('asks for family, pass and severity at once', () => {
    const one = finding({ family: 'pixels', pass: 'depth', severity: 'blocker' });
    expect(matches(one, { family: 'pixels', pass: 'depth', severity: 'blocker' })).toBe(true);
    for (const other of [{ family: 'count' }, { pass: 'beauty' }, { severity: 'note' }]) {
      expect(matches(one, { family: 'pixels', pass: 'depth', severity: 'blocker', ...other })).toBe(false);
    }
  });

  it('counts what concerns no pass to none', () => {
    expect(matches(finding({ pass: null }), { ...all, pass: 'beauty' })).toBe(false);
  });
});

describe('a lane of bars', () => {
  it('stands on the ribbon’s columns, with nothing where there is no figure', () => {
    const lane = makeBarLane(Int32Array.of(1001, 1002, 1003, 1005), [1001, 1003, 1005], [40, 90, null], 1);
    expect([...lane.values]).toEqual([40, NaN, 90, NaN]);
    expect(lane.largest).toBe(90);
  });

  it('can be drawn where all figures are zero, or none is there', () => {
    const frames = Int32Array.of(1, 2);
    expect(makeBarLane(frames, [1, 2], [0, 0], 1).largest).toBe(1);
    expect(makeBarLane(frames, [], [], 1)).toEqual({ values: Float64Array.of(NaN, NaN), largest: 1 });
  });
});

describe('a question for rows of files', () => {
  it('has sensible answers for what is left out', () => {
    expect(rowQuerySchema.parse({})).toEqual({ from: 0, count: 200, sort: 'path', down: '0', pass: '', text: '', only: 'all' });
  });

  it.each([
    { from: '-1' },
    { from: '1.5' },
    { count: '0' },
    { count: '5000' },
    { sort: 'colour' },
    { down: 'yes' },
    { only: 'maybe' },
    { text: 'x'.repeat(201) },
  ])('is refused with %o', (bad) => expect(rowQuerySchema.safeParse(bad).success).toBe(false));
});
