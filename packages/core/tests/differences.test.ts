import { describe, expect, it } from 'vitest';
import { compareBriefs, orderSheet, parseBrief, retargetBrief, workOutOrder, writeCsv } from '../src/index.ts';

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

  it.each(['=1+1', '+1', '-1', '@SUM(A1)', '\t=1', '\r=1', '=HYPERLINK("http://x","y")'])('is written so that %j computes nothing', (name) => {
    const [, cell] = writeCsv([{ file: name, frame: -5 }]).split('\r\n');
    expect(cell).toMatch(/^"?'/);
    // A number stays a number.
    expect(writeCsv([{ file: name, frame: -5 }])).toMatch(/,-5\r\n$/);
  });
});

describe('a brief for another shot', () => {
  const first = parseBrief({
    shot: 'orr_010',
    range: '1001-1048',
    fps: '24',
    duration: '2',
    sampling: { samples: 64 },
    passes: [{ name: 'beauty', pattern: 'beauty/orr_010_beauty.####.exr', depth: 'half' }],
  });

  it('has the other shot’s name in its patterns', () => {
    expect(retargetBrief(first, { shot: 'orr_020' })).toEqual({
      ...first,
      shot: 'orr_020',
      passes: [{ ...first.passes[0], pattern: 'beauty/orr_020_beauty.####.exr' }],
    });
  });

  it('keeps the other shot’s own frames where they are given, and nothing of the first one’s', () => {
    const copy = retargetBrief(first, { shot: 'orr_020', range: '1-10' });
    expect([copy.range, copy.duration, copy.sampling]).toEqual(['1-10', undefined, { samples: 64 }]);
  });

  it('is named from the template where there is one', () => {
    const named = { ...first, version: 'v002', naming: '{shot}_{version}_{pass}.####.exr' };
    expect(retargetBrief(named, { shot: 'orr_030' }).passes[0].pattern).toBe('orr_030_v002_beauty.####.exr');
  });
});
