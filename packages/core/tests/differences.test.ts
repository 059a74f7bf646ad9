import { describe, expect, it } from 'vitest';
import { compareBriefs, orderSheet, parseBrief, workOutOrder, writeCsv } from '../src/index.ts';

const before = parseBrief({
  shot: 's',
  range: '1-10',
  fps: '24',
  resolution: [640, 360],
  passes: [
    { name: 'beauty', pattern: 'b.####.exr', compression: ['zip'] },
    { name: 'depth', pattern: 'd.####.exr' },
  ],
});

describe('two versions of a brief', () => {
  it('that say the same have no differences', () => {
    expect(compareBriefs(before, structuredClone(before))).toEqual([]);
  });

  it('differ in what was changed, added and taken away', () => {
    const after = parseBrief({
      shot: 's',
      range: '1-12',
      resolution: [640, 360],
      loop: true,
      sampling: { samples: 64 },
      passes: [
        { name: 'beauty', pattern: 'b.####.exr', compression: ['zip', 'zips'] },
        { name: 'normal', pattern: 'n.####.exr' },
      ],
    });
    expect(compareBriefs(before, after)).toEqual([
      { entry: 'range', before: '1-10', after: '1-12' },
      { entry: 'fps', before: '24', after: null },
      { entry: 'beauty: compression', before: 'zip', after: 'zip zips' },
      { entry: 'depth: pattern', before: 'd.####.exr', after: null },
      { entry: 'depth: ordered', before: 'yes', after: null },
      { entry: 'sampling', before: null, after: 'samples 64' },
      { entry: 'loop', before: null, after: 'yes' },
      { entry: 'normal: pattern', before: null, after: 'n.####.exr' },
      { entry: 'normal: ordered', before: null, after: 'yes' },
    ]);
  });

  it('do not differ in the order of their passes', () => {
    expect(compareBriefs(before, { ...before, passes: [...before.passes].reverse() })).toEqual([]);
  });
});

describe('the order sheet', () => {
  it('has a row a pass, with the names as they will be on disk', () => {
    expect(orderSheet(workOutOrder(before))).toEqual([
      expect.objectContaining({
        pass: 'beauty',
        range: '1-10',
        frames: 10,
        first: 'b.0001.exr',
        last: 'b.0010.exr',
        width: '640',
        compression: 'zip',
        role: '',
      }),
      expect.objectContaining({ pass: 'depth', first: 'd.0001.exr' }),
    ]);
  });

  it('is written so that every reader reads the same', () => {
    expect(
      writeCsv([
        { a: 'x', b: 'say "hi", twice' },
        { a: ' y', b: 'two\nlines' },
      ]),
    ).toBe('a,b\r\nx,"say ""hi"", twice"\r\n" y","two\nlines"\r\n');
    expect(writeCsv([])).toBe('');
  });
});
