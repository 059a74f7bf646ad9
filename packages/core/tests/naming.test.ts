import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  formatNamePattern,
  framePath,
  groupIntoSequences,
  inferPadding,
  matchFrameName,
  parseNamePattern,
  relateNames,
  unsafeNameReason,
} from '../src/index.ts';
import { lookAtPaths } from '../src/naming/index.ts';

describe('name patterns', () => {
  it.each([
    ['beauty/orr_010_beauty.####.exr', 5, 'beauty/orr_010_beauty.0005.exr'],
    ['beauty/orr_010_beauty.####.exr', 10000, 'beauty/orr_010_beauty.10000.exr'],
    ['z.####.exr', -5, 'z.-0005.exr'],
    ['z.%04d.exr', -5, 'z.-005.exr'],
    ['z.%d.exr', 12, 'z.12.exr'],
    ['./a//z#.png', 3, 'a/z3.png'],
  ])('%s writes frame %i as %s', (text, frame, path) => {
    const pattern = parseNamePattern(text);
    expect(framePath(pattern, frame)).toBe(path);
    expect(matchFrameName(pattern, path.split('/').pop()!)).toEqual({ frame, exact: true });
  });

  it.each([
    ['beauty.exr', /no frame token/],
    ['a.####.####.exr', /more than one/],
    ['../a.####.exr', /climbs/],
    ['/a.####.exr', /root of the disk/],
    ['a\\b.####.exr', /backslash/],
    ['####/a.exr', /folder name/],
    ['a.####/', /folder, not a file/],
  ])('refuses %s', (text, why) => {
    expect(() => parseNamePattern(text)).toThrow(why);
  });

  it('tells a number with other padding from one that is longer than the padding', () => {
    const pattern = parseNamePattern('a.####.png');
    expect(matchFrameName(pattern, 'a.005.png')).toEqual({ frame: 5, exact: false });
    expect(matchFrameName(pattern, 'a.01005.png')).toEqual({ frame: 1005, exact: false });
    expect(matchFrameName(pattern, 'a.12345.png')).toEqual({ frame: 12345, exact: true });
    expect(matchFrameName(pattern, 'a.12x45.png')).toBeNull();
    expect(matchFrameName(pattern, 'a..png')).toBeNull();
  });

  it('reads back every frame that it writes', () => {
    const pattern = fc.constantFrom('a.####.png', 'a%05d.png', 'x/#.exr', '%02d_left.exr').map(parseNamePattern);
    fc.assert(
      fc.property(pattern, fc.integer({ min: -99_999, max: 999_999 }), (parsed, frame) => {
        const name = framePath(parsed, frame).split('/').pop()!;
        expect(matchFrameName(parsed, name)).toEqual({ frame, exact: true });
        expect(parseNamePattern(formatNamePattern(parsed))).toEqual(parsed);
      }),
    );
  });
});

describe('grouping a listing', () => {
  const group = (paths: string[]) =>
    groupIntoSequences(paths).sequences.map((sequence) => [formatNamePattern(sequence), sequence.files.map((file) => file.frame)]);

  it('takes the run of digits that varies, whatever other digits there are', () => {
    expect(group(['orr_010/b_v003.1001.exr', 'orr_010/b_v003.1002.exr'])).toEqual([['orr_010/b_v003.####.exr', [1001, 1002]]]);
    expect(group(['shot7_0001_left.png', 'shot7_0002_left.png'])).toEqual([['shot7_####_left.png', [1, 2]]]);
    expect(group(['f0001_v02.png', 'f0002_v02.png'])).toEqual([['f####_v02.png', [1, 2]]]);
  });

  it('keeps versions, views and folders apart', () => {
    const paths = ['v1', 'v2'].flatMap((v) => [1, 2, 3].map((frame) => `b_${v}.000${frame}.png`));
    expect(group(paths)).toEqual([
      ['b_v1.####.png', [1, 2, 3]],
      ['b_v2.####.png', [1, 2, 3]],
    ]);
    expect(group(['l/a.1.png', 'l/a.2.png', 'r/a.1.png', 'r/a.2.png'])).toHaveLength(2);
  });

  it('joins negative and positive frames, and knows a separator from a sign', () => {
    expect(group(['a.-0002.png', 'a.-0001.png', 'a.0000.png'])).toEqual([['a.####.png', [-2, -1, 0]]]);
    expect(group(['a-0002.png', 'a-0001.png'])).toEqual([['a-####.png', [1, 2]]]);
  });

  it('leaves what carries no number', () => {
    const { sequences, unnumbered } = groupIntoSequences(['notes.txt', 'beauty_v003.exr', 'a.99999999999999.png', 'clip.mp4']);
    expect(sequences).toEqual([]);
    expect([...unnumbered].sort()).toEqual(['a.99999999999999.png', 'beauty_v003.exr', 'clip.mp4', 'notes.txt']);
  });

  it('finds every frame of made-up sequences again', () => {
    const prefix = fc.constantFrom('a.', 'shot_010_b.', 'x2_v003_', 'z_');
    fc.assert(
      fc.property(prefix, fc.uniqueArray(fc.integer({ min: 0, max: 20000 }), { minLength: 2, maxLength: 40 }), (start, frames) => {
        const pattern = parseNamePattern(`${start}####.exr`);
        const { sequences } = groupIntoSequences(frames.map((frame) => framePath(pattern, frame)));
        expect(sequences).toHaveLength(1);
        expect(sequences[0].files.map((file) => file.frame)).toEqual([...frames].sort((a, b) => a - b));
      }),
    );
  });

  it('infers the padding that most files follow', () => {
    expect(inferPadding(['1001', '1002']).width).toBe(4);
    expect(inferPadding(['8', '9', '10', '11']).width).toBe(1);
    expect(inferPadding(['0998', '0999', '1000', '10000']).width).toBe(4);
    expect(inferPadding(['0001', '0002', '003']).width).toBe(4);
  });
});

describe('nearness of names', () => {
  const relation = (found: string, ordered: string) => relateNames(parseNamePattern(found), parseNamePattern(ordered));

  it.each([
    ['b/s_b_####.exr', 'b/s_b.####.exr', 'name'],
    ['b/S_B.####.exr', 'b/s_b.####.exr', 'name'],
    ['b/s_b.####.EXR', 'b/s_b.####.exr', 'name'],
    ['s_b.####.exr', 'b/s_b.####.exr', 'name'],
    ['s_v003_b.####.exr', 's_v004_b.####.exr', 'version'],
    ['s_b.####.png', 's_b.####.exr', 'format'],
    ['beauty.####.exr', 'orr_010_beauty.####.exr', 'prefix'],
    ['orr_020_beauty.####.exr', 'orr_010_beauty.####.exr', 'prefix'],
    ['orr_010_baeuty.####.exr', 'orr_010_beauty.####.exr', 'prefix'],
    ['orr_010_depth.####.exr', 'orr_010_beauty.####.exr', null],
    ['other.####.exr', 'orr_010_beauty.####.exr', null],
  ])('%s against %s: %s', (found, ordered, expected) => {
    expect(relation(found, ordered)).toBe(expected);
  });
});

describe('a quick look at many paths', () => {
  const part = fc.oneof(
    fc.string({ unit: fc.constantFrom('a', 'b', 'Z', '0', '.', ' ', '-', '_', '\u00e9', ':', '\n', '~') }),
    fc.constantFrom('con', 'COM1.exr', 'nul.0001.png', 'aux', 'lpt9', 'shot_010.1001.exr', 'x'.repeat(256)),
  );
  const path = fc.array(part, { minLength: 1, maxLength: 3 }).map((parts) => parts.join('/'));

  it('misses none that a close look has a reason against', () => {
    fc.assert(
      fc.property(fc.array(path, { maxLength: 12 }), (paths) => {
        const odd = new Set(lookAtPaths(paths).odd);
        paths.forEach((path, index) => {
          const reason = path
            .split('/')
            .map(unsafeNameReason)
            .find((found) => found !== null);
          if (reason !== undefined) expect(odd.has(index), JSON.stringify(path)).toBe(true);
        });
      }),
      { numRuns: 500 },
    );
  });

  it('lets plain ones pass, and finds the capitals', () => {
    const paths = ['beauty/shot_010_beauty.1001.exr', 'Depth/shot_010_depth.1001.exr', 'notes-2.txt', 'shotB'];
    expect(lookAtPaths(paths)).toEqual({ odd: [], capitals: [1, 3] });
  });
});

describe('names that will not travel', () => {
  it.each(['a b.exr', 'a.0001.exr', 'A-b_c.png'])('%s is fine', (name) => expect(unsafeNameReason(name)).toBeNull());
  it.each([' a.exr', 'a.exr ', 'a .exr', 'a.exr.', 'a:b.exr', 'nul.exr', 'é.exr', 'a\tb.exr'])('%j is not', (name) => {
    expect(unsafeNameReason(name)).not.toBeNull();
  });
});
