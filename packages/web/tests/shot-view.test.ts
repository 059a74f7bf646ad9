import { parseFrameRange, type Lane } from '@mint-tally/core';
import fc from 'fast-check';
import { describe, expect, it, vi } from 'vitest';
import { isCharacterKey, pressKey } from '$lib/shot/keys';
import { ShotView } from '$lib/shot/shot-view.svelte';

/** A shot of frames 1001 to 1010; the beauty lacks 1004 and 1005, the depth's 1009 is broken. */
const lanes: readonly Lane[] = [
  { pass: 'beauty', frames: '1001-1010', states: 'sssmmwssss' },
  { pass: 'depth', frames: '1001-1010', states: 'ssssssssbs' },
  { pass: 'normal', frames: '1003-1010', states: 'ssssssss' },
];

const key = (name: string, more: Partial<KeyboardEvent> = {}) =>
  ({ key: name, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...more }) as KeyboardEvent;
const press = (view: ShotView, name: string, shiftKey = false) => pressKey(view, key(name, { shiftKey }), () => undefined);

describe('the selection', () => {
  it('holds both ends, whichever comes first, and the ordered frames between', () => {
    const view = new ShotView(() => lanes);
    view.select(1008, 1003);
    expect([view.selectedColumns, view.selectionRange, view.selectionSize]).toEqual([[[2, 7]], '1003-1008', 6]);
    view.select(990, 1001);
    expect([view.selectionRange, view.selectionSize]).toEqual(['1001', 1]);
  });

  it('is none where no frame is ordered, as for a finding outside the range', () => {
    const view = new ShotView(() => lanes);
    view.select(1003, 1004);
    view.select(1011, 1011);
    expect([view.selectedColumns, view.selectionRange, view.selectionSize]).toEqual([[], '', 0]);
  });
});

describe('the selection of a finding', () => {
  it('is its frames and none between them, as far as they are ordered', () => {
    const view = new ShotView(() => lanes);
    view.selectFrames(parseFrameRange('1002,1005-1006,1010,2000'));
    expect([view.selectionRange, view.selectionSize]).toEqual(['1002,1005-1006,1010', 4]);
    expect(view.selectedColumns).toEqual([
      [1, 1],
      [4, 5],
      [9, 9],
    ]);
    // Drawn on with the keys, it begins anew at the playhead.
    view.goTo(1004);
    view.extendTo(5);
    expect(view.selectionRange).toBe('1004-1006');
  });
});

describe('the playhead', () => {
  it('begins at the first frame and stays among the ordered ones', () => {
    const view = new ShotView(() => lanes);
    expect([view.frame, view.pass]).toEqual([1001, 'beauty']);
    view.goTo(2000);
    expect(view.frame).toBe(1010);
    view.goTo(-4);
    expect(view.frame).toBe(1001);
    view.goToColumn(3.4);
    expect(view.frame).toBe(1004);
  });

  it('goes to the next trouble of any pass, over what was waived, and looks at that pass', () => {
    const view = new ShotView(() => lanes);
    const stops = [];
    while (view.goToTrouble(1)) stops.push([view.frame, view.pass]);
    expect(stops).toEqual([
      [1004, 'beauty'],
      [1005, 'beauty'],
      [1009, 'depth'],
    ]);
    expect(view.goToTrouble(-1)).toBe(true);
    expect(view.frame).toBe(1005);
  });

  it('stays inside the shot whatever keys are pressed', () => {
    const keys = fc.array(
      fc.tuple(
        fc.constantFrom('ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'PageUp', 'PageDown', 'Home', 'End', 'n', 'b', '+', '-', '0', 'Escape'),
        fc.boolean(),
      ),
      {
        maxLength: 40,
      },
    );
    fc.assert(
      fc.property(keys, (pressed) => {
        const view = new ShotView(() => lanes);
        for (const [name, shift] of pressed) expect(press(view, name, shift)).toBe(true);
        expect(view.frame).toBeGreaterThanOrEqual(1001);
        expect(view.frame).toBeLessThanOrEqual(1010);
        expect(lanes.map((lane) => lane.pass)).toContain(view.pass);
        const [from, to] = view.shown;
        expect(from).toBeGreaterThanOrEqual(0);
        expect(to).toBeLessThanOrEqual(10);
        expect(to - from).toBeGreaterThanOrEqual(8 - 1e-9);
        expect(view.selectedColumns.reduce((sum, [first, last]) => sum + last - first + 1, 0)).toBe(view.selectionSize);
      }),
    );
  });
});

describe('keys', () => {
  it('leave the browser its own', () => {
    const view = new ShotView(() => lanes);
    for (const modifier of ['ctrlKey', 'metaKey', 'altKey']) expect(pressKey(view, key('ArrowRight', { [modifier]: true }), () => undefined)).toBe(false);
    expect(press(view, 'Tab')).toBe(false);
    expect(view.frame).toBe(1001);
  });

  it('select with Shift, from where the playhead was, and back over it', () => {
    const view = new ShotView(() => lanes);
    view.goTo(1005);
    for (const name of ['ArrowRight', 'ArrowRight']) press(view, name, true);
    expect([view.selectionRange, view.selectionSize]).toEqual(['1005-1007', 3]);
    for (let i = 0; i < 4; i++) press(view, 'ArrowLeft', true);
    expect([view.selectionRange, view.selectionSize]).toEqual(['1003-1005', 3]);
    press(view, 'Escape');
    expect([view.selectedColumns, view.selectionRange, view.selectionSize]).toEqual([[], '', 0]);
  });

  it('show the list of keys', () => {
    const show = vi.fn();
    pressKey(new ShotView(() => lanes), key('?'), show);
    expect(show).toHaveBeenCalledOnce();
  });
});

describe('a selection over a stepped range', () => {
  it('names the ordered frames only', () => {
    const view = new ShotView(() => [{ pass: 'beauty', frames: '1-20x5,30', states: 'sssss' }]);
    view.select(18, 4);
    expect([view.selectionRange, view.selectionSize]).toEqual(['6-16x5', 3]);
  });
});

describe('zooming', () => {
  it('keeps the column under the pointer where it is, and shows all again in the end', () => {
    const view = new ShotView(() => [{ pass: 'beauty', frames: '1-1000', states: 's'.repeat(1000) }]);
    const share = (column: number) => (column - view.shown[0]) / (view.shown[1] - view.shown[0]);
    const before = share(400);
    for (let i = 0; i < 5; i++) view.zoom(0.6, 400);
    expect(share(400)).toBeCloseTo(before, 9);
    view.goTo(900);
    expect(view.shown[0]).toBeLessThanOrEqual(899);
    expect(view.shown[1]).toBeGreaterThanOrEqual(900);
    view.zoom(100, 500);
    expect(view.shown).toEqual([0, 1000]);
  });
});

describe('keys', () => {
  it('of one character can be told from the others, so that they can be switched off', () => {
    expect(['n', 'C', '+', '?', '['].every(isCharacterKey)).toBe(true);
    expect(['ArrowLeft', 'Escape', 'Home', 'PageUp'].some(isCharacterKey)).toBe(false);
  });
});
