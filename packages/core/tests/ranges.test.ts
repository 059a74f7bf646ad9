import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatFrameRange, FrameSet, parseFrameRange, parseFrameSet, RangeNotationError, TooManyFramesError } from '../src/index.ts';

const frames = fc.array(fc.integer({ min: -300, max: 300 }), { maxLength: 80 });
const sorted = (values: Iterable<number>) => [...new Set(values)].sort((a, b) => a - b);

describe('frame range notation', () => {
  it.each([
    ['1001-1004', [1001, 1002, 1003, 1004]],
    ['1-9x2,120', [1, 3, 5, 7, 9, 120]],
    ['1-10x4', [1, 5, 9]],
    ['-5-5x5', [-5, 0, 5]],
    ['-10--8', [-10, -9, -8]],
    [' 3 , 1 - 2 ', [1, 2, 3]],
    ['4 5 6', [4, 5, 6]],
    ['0005', [5]],
  ])('reads %s', (text, expected) => {
    expect([...parseFrameRange(text)]).toEqual(expected);
  });

  it.each([
    [[1010, 1011], '1010-1011'],
    [[1, 3, 5], '1-5x2'],
    [[1, 3], '1,3'],
    [[1, 3, 5, 6, 7], '1,3,5-7'],
    [[-5, -4, 0], '-5--4,0'],
    [[1, 3, 5, 7, 8, 9], '1-5x2,7-9'],
    [[], ''],
  ])('writes %j as %s', (values, text) => {
    expect(formatFrameRange(FrameSet.of(values))).toBe(text);
  });

  it.each([
    ['', 0],
    ['1001-', 4],
    ['1-10,', 5],
    ['1-10,,3', 5],
    ['12a', 2],
    ['10-1', 0],
    ['1-10x0', 0],
    ['1-10x-2', 0],
    ['1,9999999999', 2],
  ])('says where %j goes wrong', (text, position) => {
    try {
      parseFrameRange(text);
      expect.unreachable();
    } catch (thrown) {
      expect(thrown).toBeInstanceOf(RangeNotationError);
      expect((thrown as RangeNotationError).position).toBe(position);
    }
  });

  it('refuses more than a million frames, however they are written', () => {
    expect(() => parseFrameRange('1-1000001')).toThrow(TooManyFramesError);
    expect(() => parseFrameRange('1-999999,2000000-2999999')).toThrow(TooManyFramesError);
    expect(parseFrameRange('1-1000000').size).toBe(1_000_000);
  });

  it('reads back what it writes', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -300, max: 300 }), { maxLength: 80 }), (values) => {
        const text = formatFrameRange(FrameSet.of(values));
        expect([...parseFrameSet(text)]).toEqual(sorted(values));
        if (values.length > 0) expect([...parseFrameRange(text)]).toEqual(sorted(values));
      }),
    );
  });

  it('takes an empty text for no frames only where it was written', () => {
    expect(parseFrameSet('').isEmpty).toBe(true);
    expect(() => parseFrameRange('')).toThrow(RangeNotationError);
    expect(() => parseFrameSet(' ')).toThrow(RangeNotationError);
  });

  it('throws nothing but its own errors', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(...'0123456789-x, a'), maxLength: 30 }), (text) => {
        try {
          parseFrameRange(text);
        } catch (thrown) {
          expect(thrown instanceof RangeNotationError || thrown instanceof TooManyFramesError).toBe(true);
        }
      }),
    );
  });
});

describe('frame sets', () => {
  it('counts both ends', () => {
    expect(FrameSet.range(0, 90).size).toBe(91);
  });

  it('agree with sets of numbers in every operation', () => {
    fc.assert(
      fc.property(frames, frames, (a, b) => {
        const [left, right] = [FrameSet.of(a), FrameSet.of(b)];
        const [inA, inB] = [new Set(a), new Set(b)];
        expect([...left.union(right)]).toEqual(sorted([...a, ...b]));
        expect([...left.intersection(right)]).toEqual(sorted(a.filter((frame) => inB.has(frame))));
        expect([...left.difference(right)]).toEqual(sorted(a.filter((frame) => !inB.has(frame))));
        expect(left.isSubsetOf(right)).toBe(a.every((frame) => inB.has(frame)));
        for (const frame of b) expect(left.has(frame)).toBe(inA.has(frame));
      }),
    );
  });
});
