import { formatFrameRange, FrameSet, parseFrameRange } from '@mint-tally/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fieldsOfRange, rangeAfter, sayLength } from '$lib/brief/duration-fields';
import { EditHistory } from '$lib/brief/history.svelte';

describe('start and duration beside the range', () => {
  it('say the same in other words', () => {
    expect(fieldsOfRange('1001-1096', '24')).toEqual({ start: '1001', frames: '96', seconds: '4', timecode: '00:00:04:00' });
    expect(fieldsOfRange('1001-1096', '')).toEqual({ start: '1001', frames: '96', seconds: '', timecode: '' });
    expect(fieldsOfRange('1-10,20', '24')).toEqual({ start: '', frames: '', seconds: '', timecode: '' });
    expect(fieldsOfRange('1-', '24').start).toBe('');
    // A step leaves out frames, not time.
    expect(fieldsOfRange('1001-1096x5', '24')).toEqual({ start: '1001', frames: '20', seconds: '4', timecode: '00:00:04:00' });
    expect(fieldsOfRange('1-100x2', '25')).toMatchObject({ frames: '50', seconds: '4' });
    expect(sayLength('1001-1300', '30')).toBe('10 s = 300 frames');
    expect(sayLength('1001-1096x5', '24')).toBe('4 s on screen, one frame in 5: 20 frames');
    expect(sayLength('1-10,20', '24')).toBe('');
  });

  it.each([
    ['1001-1096', 'seconds', '5', '1001-1120'],
    ['1001-1096', 'frames', '10', '1001-1010'],
    ['1001-1096', 'timecode', '00:00:02:00', '1001-1048'],
    ['1001-1096', 'start', '0', '0-95'],
    ['1001-1096', 'start', '-5', '-5-90'],
    ['', 'seconds', '1', '1001-1024'],
    ['1-41x10', 'frames', '3', '1-21x10'],
    ['1001-1096', 'frames', '10 s', '1001-1240'],
    ['1001-1096', 'seconds', '240 frames', '1001-1240'],
    ['1001-1096', 'timecode', '240', '1001-1240'],
    ['1001-1096', 'seconds', '00:00:10:00', '1001-1240'],
    ['1001-1096x5', 'seconds', '10', '1001-1236x5'],
  ] as const)('%s, with %s %s, becomes %s', (range, field, typed, after) => {
    expect(rangeAfter(range, '24', field, typed)).toEqual({ range: after, problem: null });
  });

  it.each([
    ['frames', ''],
    ['frames', '0'],
    ['frames', '1.5'],
    ['frames', '99999999'],
    ['seconds', 'x'],
    ['timecode', '4 o'],
    ['start', '1e3'],
  ] as const)('leave the range alone while %s reads “%s”', (field, typed) => {
    const { range, problem } = rangeAfter('1-9', '24', field, typed);
    expect(range).toBeNull();
    expect(problem).not.toBe('');
  });

  it('tell a timecode that drop-frame does not have, and change nothing', () => {
    expect(rangeAfter('1-9', '29.97', 'timecode', '00:01:00;00').problem).toContain('drop-frame leaves the first 2 labels of this minute out');
    expect(rangeAfter('1-9', '29.97', 'timecode', '00:01:00;02').range).toBe('1-1800');
    expect(rangeAfter('1-9', '25', 'timecode', '00:01:00;02').problem).toContain('no drop-frame');
  });

  it('keep in step: any of them gives the range that it came from', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -500, max: 5000 }),
        fc.integer({ min: 1, max: 3000 }),
        fc.constantFrom('23.976', '24', '25', '29.97', '59.94'),
        (start, count, fps) => {
          const range = formatFrameRange(FrameSet.range(start, start + count - 1));
          const fields = fieldsOfRange(range, fps);
          for (const field of ['start', 'frames', 'seconds', 'timecode'] as const) {
            const after = rangeAfter(range, fps, field, fields[field]).range!;
            expect(parseFrameRange(after).equals(parseFrameRange(range))).toBe(true);
          }
        },
      ),
    );
  });
});

describe('undo and redo', () => {
  it('take back whole steps: what was typed without a rest is one', () => {
    const history = new EditHistory('');
    let now = 1000;
    for (const [text, rest] of [
      ['a', 1000],
      ['ab', 50],
      ['abc', 50],
      ['abcd', 1000],
    ] as const)
      history.note(text, (now += rest));
    expect(history.undo()).toBe('abc');
    expect(history.undo()).toBe('');
    expect([history.undo(), history.canUndo, history.canRedo]).toEqual([null, false, true]);
    expect(history.redo()).toBe('abc');
    expect(history.redo()).toBe('abcd');
    expect(history.redo()).toBeNull();
  });

  it('forget the future when something new is typed', () => {
    const history = new EditHistory({ n: 0 });
    history.note({ n: 1 }, 1000);
    history.undo();
    history.note({ n: 2 }, 5000);
    expect(history.canRedo).toBe(false);
    expect(history.undo()).toEqual({ n: 0 });
  });

  it('note nothing where nothing changed', () => {
    const history = new EditHistory({ n: 0 });
    history.note({ n: 0 }, 1000);
    expect(history.canUndo).toBe(false);
  });
});
