import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  assignExactly,
  assignFiles,
  FrameSet,
  groupIntoSequences,
  parseBrief,
  proposeBrief,
  relateNames,
  sampleFiles,
  tally,
  workOutOrder,
  type Assignment,
  type ListedFile,
} from '../src/index.ts';
import { NOW } from './virtual-folder.ts';

const listed = (path: string): ListedFile => ({ path, size: 100, modified: NOW - 3_600_000, kind: 'file' });

function countNames(paths: Iterable<string>, pattern: string, range: string) {
  const order = workOutOrder(parseBrief({ shot: 's', range, passes: [{ name: 'beauty', pattern }] }));
  const listing = Array.from(paths, listed);
  return tally({ order, listing, assignment: assignFiles(order, listing, NOW), level: 'names', factsOf: () => null });
}

function* frames(name: (frame: number) => string, first: number, last: number): Generator<string> {
  for (let frame = first; frame <= last; frame++) yield name(frame);
}

describe('several sequences in one folder', () => {
  it('are told apart by digits in their prefix, by version and by view', () => {
    const names = [
      (n: number) => `sc04_sh010_v002_l.${n}.exr`,
      (n: number) => `sc04_sh010_v002_r.${n}.exr`,
      (n: number) => `sc04_sh010_v003_l.${n}.exr`,
      (n: number) => `sc04_sh020_v002_l.${n}.exr`,
      (n: number) => `2001_take7_plate.${n}.exr`,
    ];
    const { sequences, unnumbered } = groupIntoSequences(names.flatMap((name) => [...frames(name, 1001, 1010)]));
    expect(unnumbered).toEqual([]);
    expect(sequences.map(({ prefix, files }) => `${prefix} ${files.length}`).sort()).toEqual(
      ['2001_take7_plate. 10', 'sc04_sh010_v002_l. 10', 'sc04_sh010_v002_r. 10', 'sc04_sh010_v003_l. 10', 'sc04_sh020_v002_l. 10'].sort(),
    );
  });

  it.each([
    ['shot_l.', 'shot_r.'],
    ['shot_left.', 'shot_right.'],
    ['left/shot.', 'right/shot.'],
  ])('one view, %s, is never taken for misnamed frames of the other, %s', (a, b) => {
    const split = (text: string) => ({ directory: text.split('/').slice(0, -1).join('/'), prefix: text.split('/').pop()!, suffix: '.exr' });
    if (!a.includes('/')) expect(relateNames(split(a), split(b))).toBeNull();
    const { findings } = countNames([...frames((n) => `${a}${n}.exr`, 1001, 1004), ...frames((n) => `${b}${n}.exr`, 1001, 1004)], `${a}####.exr`, '1001-1004');
    expect(findings.map(({ code, frames }) => `${code} ${frames}`)).toEqual(['unplanned-sequence 1001-1004']);
  });
});

describe('very many patterns in one folder', () => {
  it('claim the files that each claims alone, wherever digits stand in names and patterns', () => {
    const letter = fc.constantFrom('a', '1', '2', '-', '_');
    const word = fc.string({ unit: letter, maxLength: 4 });
    const pattern = fc.tuple(word, word).map(([before, behind]) => `${before}##${behind}.exr`);
    fc.assert(
      fc.property(
        fc.uniqueArray(pattern, { minLength: 14, maxLength: 24 }),
        fc.uniqueArray(
          fc.string({ unit: letter, minLength: 1, maxLength: 10 }).map((name) => `${name}.exr`),
          { minLength: 1, maxLength: 30 },
        ),
        (patterns, names) => {
          const orderOf = (some: readonly string[]) =>
            workOutOrder(parseBrief({ shot: 's', range: '1-9', passes: some.map((one, i) => ({ name: `p${i}`, pattern: one })) }));
          const listing = names.map(listed);
          const claimed = ({ claims, unexpected }: Assignment) =>
            new Set([...claims.flatMap((byFrame) => [...byFrame.values()].flat()), ...unexpected].map(({ file }) => file.path));
          const alone = new Set(patterns.flatMap((one) => [...claimed(assignExactly(orderOf([one]), listing))]));
          expect(claimed(assignExactly(orderOf(patterns), listing))).toEqual(alone);
        },
      ),
      { numRuns: 200 },
    );
  });
});

describe('a folder of odd names', () => {
  const odd: Record<string, (i: number) => string> = {
    'that have nothing in common': (i) => `${(i * 7919).toString(36)}x${i % 13}_odd${i}.png`,
    'of sixty numbers each': (i) => `${Array.from({ length: 60 }, (_, k) => `a${(i * 31 + k * 17) % 1000}`).join('')}.png`,
    'in a folder of its own each': (i) => `f${i}/a.${i}.png`,
    'nearly alike': (i) => `beauty_${i % 100}_take${Math.floor(i / 100)}.${1000 + (i % 3)}.png`,
  };

  it.each(Object.entries(odd))('%s is gone through however many they are: by squares this would take minutes', (_, name) => {
    const listing = Array.from({ length: 40_000 }, (__, i) => listed(name(i)));
    const brief = proposeBrief(listing, 'folder')!;
    expect(brief.passes.length).toBeLessThanOrEqual(200);
    expect(sampleFiles(brief, listing).length).toBeLessThanOrEqual(5 * brief.passes.length);
  });
});

describe('a folder with very many strays', () => {
  it('is counted, the strays told in one finding of bounded size', () => {
    const strays = 300_000;
    function* all(): Generator<string> {
      yield* frames((n) => `beauty.${n}.exr`, 1001, 1100);
      for (let i = 0; i < strays; i++) yield `cache/particles_${i.toString(36)}.${i % 5000}.bin`;
    }
    const { findings, passes } = countNames(all(), 'beauty.####.exr', '1001-1100');
    expect(passes[0]).toMatchObject({ sound: 100, missing: FrameSet.empty });
    expect(findings).toHaveLength(1);
    expect(findings[0]).toMatchObject({ code: 'stray-file', message: '300,000 files that belong to no pass.', moreFiles: strays - 10_000 });
    expect(findings[0].files).toHaveLength(10_000);
  });
});
