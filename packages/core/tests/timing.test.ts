import { describe, expect, it } from 'vitest';
import { durationSeconds, formatFrameRate, formatTimecode, parseFrameRate, parseTimecode } from '../src/index.ts';

describe('frame rates', () => {
  it.each([
    ['24', 24, 1],
    ['24.0', 24, 1],
    ['23.976', 24000, 1001],
    ['23.98', 24000, 1001],
    ['29.97', 30000, 1001],
    ['59.94', 60000, 1001],
    ['12.5', 25, 2],
    ['12.99', 1299, 100],
    ['24000/1001', 24000, 1001],
    ['50/2', 25, 1],
  ])('reads %s exactly', (text, numerator, denominator) => {
    expect(parseFrameRate(text)).toEqual({ numerator, denominator });
  });

  it.each(['', '0', '24/0', '-24', 'fast', '5000', '1e3'])('refuses %j', (text) => {
    expect(() => parseFrameRate(text)).toThrow(/not a frame rate/);
  });

  it('writes what it can read back', () => {
    for (const text of ['24', '23.976', '29.97', '12.5', '47.952', '119.88', '1/3']) {
      const rate = parseFrameRate(text);
      expect(parseFrameRate(formatFrameRate(rate))).toEqual(rate);
    }
  });

  it('keeps duration exact over NTSC rates', () => {
    expect(durationSeconds(24000, parseFrameRate('23.976'))).toBe(1001);
  });
});

describe('timecode', () => {
  const film = parseFrameRate('24');

  it('counts frames from zero', () => {
    expect(formatTimecode(0, film)).toBe('00:00:00:00');
    expect(formatTimecode(34, film)).toBe('00:00:01:10');
    expect(formatTimecode(24 * 3600, film)).toBe('01:00:00:00');
  });

  // SMPTE ST 12-1: labels 0 and 1 are left out of every minute but each tenth.
  it.each([
    [1799, '00:00:59;29'],
    [1800, '00:01:00;02'],
    [17981, '00:09:59;29'],
    [17982, '00:10:00;00'],
    [107892, '01:00:00;00'],
  ])('drops labels at 29.97: frame %i is %s', (frame, label) => {
    const rate = parseFrameRate('29.97');
    expect(formatTimecode(frame, rate, true)).toBe(label);
    expect(parseTimecode(label, rate)).toBe(frame);
  });

  it.each(['29.97', '59.94'])('comes back unchanged over a whole day at %s', (text) => {
    const rate = parseFrameRate(text);
    const day = text === '29.97' ? 2589408 : 5178816;
    const wrong: number[] = [];
    for (let frame = 0; frame < day; frame += 7) {
      if (parseTimecode(formatTimecode(frame, rate, true), rate) !== frame) wrong.push(frame);
    }
    expect(wrong).toEqual([]);
    expect(formatTimecode(day, rate, true)).toBe('00:00:00;00');
  });

  it('refuses labels that do not exist', () => {
    const rate = parseFrameRate('29.97');
    expect(() => parseTimecode('00:01:00;00', rate)).toThrow(/leaves the first 2 labels of this minute out/);
    expect(() => parseTimecode('00:00:00:24', film)).toThrow(/24 frames/);
    expect(() => parseTimecode('00:00:00;00', film)).toThrow(/no drop-frame/);
    expect(() => formatTimecode(1, film, true)).toThrow(/no drop-frame/);
  });
});
