import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  describeRun,
  DurationError,
  fillNaming,
  formatTimecode,
  framesOfSeconds,
  framesOfTimecode,
  hasTokens,
  NamePatternError,
  NamingTemplateError,
  parseFrameRange,
  parseFrameRate,
  rangeOf,
  secondsOfFrames,
  TimecodeError,
} from '../src/index.ts';

const rates = ['23.976', '24', '25', '29.97', '30', '48', '50', '59.94', '60', '12.5', '1000/7'];

describe('seconds and frames', () => {
  it.each([
    ['4', '24', 96, true],
    ['4.5', '24', 108, true],
    ['4,5', '24', 108, true],
    ['0.1', '30', 3, true],
    ['0.1', '29.97', 3, false],
    ['1.001', '29.97', 30, true],
    ['1.001', '23.976', 24, true],
    ['10', '59.94', 599, false],
    ['0.02', '25', 1, false],
  ])('%s s at %s are %d frames', (text, rate, frames, exact) => {
    expect(framesOfSeconds(text, parseFrameRate(rate))).toEqual({ frames, exact });
  });

  it('come back as the frames that they were, at every rate', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 100_000 }), fc.constantFrom(...rates), (frames, text) => {
        const rate = parseFrameRate(text);
        expect(framesOfSeconds(secondsOfFrames(frames, rate), rate).frames).toBe(frames);
      }),
    );
  });

  it.each(['', 'x', '-4', '1e3', '0', '0.0001', '9999999', '4 s'])('are refused as “%s”', (text) => {
    expect(() => framesOfSeconds(text, parseFrameRate('24'))).toThrow(DurationError);
  });

  it('say nothing that they do not know', () => {
    expect(secondsOfFrames(96, parseFrameRate('24'))).toBe('4');
    expect(secondsOfFrames(97, parseFrameRate('24'))).toBe('4.042');
  });
});

describe('a duration as timecode', () => {
  it('counts its frames, drop-frame or not', () => {
    expect(framesOfTimecode('00:00:04:00', parseFrameRate('24')).frames).toBe(96);
    expect(framesOfTimecode('00:01:00;02', parseFrameRate('29.97')).frames).toBe(1800);
    expect(framesOfTimecode('00:01:00:00', parseFrameRate('29.97')).frames).toBe(1800);
  });

  it('comes back as it was at every rate', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 80_000 }), fc.constantFrom(...rates.slice(0, 9)), (frames, text) => {
        const rate = parseFrameRate(text);
        expect(framesOfTimecode(formatTimecode(frames, rate), rate).frames).toBe(frames);
      }),
    );
  });

  it('is refused when it is none, or no time at all', () => {
    expect(() => framesOfTimecode('4', parseFrameRate('24'))).toThrow(TimecodeError);
    expect(() => framesOfTimecode('00:01:00;00', parseFrameRate('29.97'))).toThrow(TimecodeError);
    expect(() => framesOfTimecode('00:00:00:00', parseFrameRate('24'))).toThrow(DurationError);
  });
});

describe('a range by start and duration', () => {
  it('has just that many frames, inclusive at both ends', () => {
    expect(rangeOf(1001, 96)).toBe('1001-1096');
    expect(rangeOf(0, 91)).toBe('0-90');
    expect(rangeOf(1, 5, 10)).toBe('1-41x10');
    expect(rangeOf(7, 1)).toBe('7');
  });

  it('comes apart again, and a broken range does not', () => {
    fc.assert(
      fc.property(fc.integer({ min: -999, max: 9999 }), fc.integer({ min: 2, max: 500 }), fc.integer({ min: 1, max: 20 }), (start, count, step) => {
        expect(describeRun(parseFrameRange(rangeOf(start, count, step)))).toEqual({ start, count, step });
      }),
    );
    expect(describeRun(parseFrameRange('1-10,12'))).toBeNull();
    expect(describeRun(parseFrameRange('5'))).toEqual({ start: 5, count: 1, step: 1 });
  });
});

describe('a naming template', () => {
  const values = { shot: 'orr_010', pass: 'beauty', version: 'v004' };

  it('becomes a pattern', () => {
    expect(fillNaming('{pass}/{shot}_{version}_{pass}.####.exr', values)).toBe('beauty/orr_010_v004_beauty.####.exr');
    expect(fillNaming('{shot}.%04d.png', values)).toBe('orr_010.%04d.png');
    expect(fillNaming('plain.####.exr', values)).toBe('plain.####.exr');
  });

  it('leaves no separator behind for what is empty', () => {
    expect(fillNaming('{pass}/{shot}_{version}_{pass}.####.exr', { ...values, version: '' })).toBe('beauty/orr_010_beauty.####.exr');
  });

  it('lets no value bring folders or tokens of its own', () => {
    expect(fillNaming('{pass}/{shot}.####.exr', { ...values, shot: '../../etc/x', pass: 'a#b%04d' })).toBe('a_b_04d/.._.._etc_x.####.exr');
  });

  it.each([
    ['{shot}_{take}.####.exr', NamingTemplateError],
    ['{shot.####.exr', NamingTemplateError],
    ['{shot}.exr', NamePatternError],
    ['../{shot}.####.exr', NamePatternError],
    ['/{shot}.####.exr', NamePatternError],
  ])('is refused as %s', (template, error) => {
    expect(() => fillNaming(template, values)).toThrow(error);
  });

  it('is told from a pattern', () => {
    expect([hasTokens('{shot}.####.exr'), hasTokens('a.####.exr')]).toEqual([true, false]);
  });
});
