import { frameSetSchema, type Lane } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { makeRibbonModel } from '$lib/ribbon/ribbon-model';
import type { ShownFinding } from '$lib/server/shot-state';
import { sheetCells, USUAL_SHEET, type SheetChoice } from '$lib/sheet/sheet-cells';

const lane = (pass: string, frames: string, states: string): Lane => ({ pass, frames, states }) as unknown as Lane;
/** Ten frames of beauty of which the third is missing and the ninth odd; depth lacks the first two. */
const model = makeRibbonModel([lane('beauty', '1001-1010', 'ssmsssssos'), lane('depth', '1003-1010', 'ssssssss')]);
const finding = (pass: string | null, frames: string, code: string, change: object = {}) =>
  ({ pass, frames: frameSetSchema.parse(frames), code, waiver: null, ...change }) as unknown as ShownFinding;
const findings = [
  finding('beauty', '1003', 'missing-frame'),
  finding('beauty', '1003,1009', 'jump'),
  finding(null, '', 'stray-file'),
  finding('depth', '1004', 'truncated', { waiver: { id: 1 } }),
];
const cells = (choice: Partial<SheetChoice>, at = { pass: 'beauty', column: 0 }) => sheetCells({ ...USUAL_SHEET, ...choice }, model, findings, at);
const framesOf = (choice: Partial<SheetChoice>, at?: { pass: string; column: number }) => cells(choice, at).map(({ pass, frame }) => `${pass} ${frame}`);

describe('a sheet', () => {
  it('shows every n-th frame that its pass orders', () => {
    expect(cells({ kind: 'every' })).toHaveLength(10);
    expect(framesOf({ kind: 'every', step: 4 })).toEqual(['beauty 1001', 'beauty 1005', 'beauty 1009']);
    expect(framesOf({ kind: 'every', step: 4 }, { pass: 'depth', column: 0 })).toEqual(['depth 1005', 'depth 1009']);
    expect(framesOf({ kind: 'every', step: 0 })).toHaveLength(10);
  });

  it('shows the frames of all findings once each, with the one that weighs most, and none that was waived', () => {
    expect(cells({ kind: 'findings' }).map(({ pass, frame, finding: title }) => [pass, frame, title])).toEqual([
      ['beauty', 1003, 'Frames missing'],
      ['beauty', 1009, expect.not.stringMatching(/^$|missing/)],
    ]);
  });

  it('shows one frame in all passes that order it', () => {
    expect(framesOf({ kind: 'passes' }, { pass: 'beauty', column: 4 })).toEqual(['beauty 1005', 'depth 1005']);
    expect(framesOf({ kind: 'passes' }, { pass: 'beauty', column: 0 })).toEqual(['beauty 1001']);
  });

  it('shows what lies around each fault, each frame once', () => {
    expect(cells({ kind: 'around' }).map(({ frame, state }) => [frame, state])).toEqual([
      [1001, 'sound'],
      [1002, 'sound'],
      [1003, 'missing'],
      [1004, 'sound'],
      [1005, 'sound'],
      [1007, 'sound'],
      [1008, 'sound'],
      [1009, 'odd'],
      [1010, 'sound'],
    ]);
    expect(cells({ kind: 'around' }, { pass: 'depth', column: 0 })).toEqual([]);
  });

  it('of a shot without frames is empty, whichever it is', () => {
    const none = makeRibbonModel([]);
    for (const kind of ['every', 'findings', 'passes', 'around'] as const)
      expect(sheetCells({ ...USUAL_SHEET, kind }, none, findings, { pass: '', column: 0 })).toEqual([]);
  });
});
