import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { assignFiles, FrameSet, parseBrief, tally, unsafeNameReason, workOutOrder, type Finding, type ListedFile } from '../src/index.ts';

/** Counts by names alone: nothing is opened, so a list of paths is all that is needed. */
function unsafeFindings(paths: readonly string[], patterns: readonly string[]): Finding[] {
  const order = workOutOrder(parseBrief({ shot: 'orr_010', range: '1-12', passes: patterns.map((pattern, i) => ({ name: `pass${i}`, pattern })) }));
  const listing = paths.map((path): ListedFile => ({ path, size: 10, modified: 0, kind: 'file' }));
  const assignment = assignFiles(order, listing, 3_600_000);
  return tally({ order, listing, assignment, level: 'names', factsOf: () => null }).findings.filter(({ code }) => code === 'unsafe-name');
}

const unsafeFiles = (paths: readonly string[], patterns: readonly string[]) =>
  unsafeFindings(paths, patterns)
    .flatMap(({ files }) => files)
    .sort();

const frames = (name: (frame: string) => string, count = 12) => Array.from({ length: count }, (_, i) => name(String(i + 1).padStart(4, '0')));

describe('names that will not travel, in a count', () => {
  it('are none where all is plainly named', () => {
    expect(
      unsafeFiles(
        frames((n) => `beauty/orr_010.${n}.exr`),
        ['beauty/orr_010.####.exr'],
      ),
    ).toEqual([]);
  });

  it('are all of a pass whose pattern has the fault', () => {
    const [finding, ...others] = unsafeFindings(
      frames((n) => `beauty/orr:010.${n}.exr`),
      ['beauty/orr:010.####.exr'],
    );
    expect(others).toEqual([]);
    expect(finding).toMatchObject({ pass: 'pass0', frames: FrameSet.range(1, 12), detail: 'Windows refuses the character :' });
    expect(finding.files.length).toBe(12);
  });

  it('are those outside the range as well', () => {
    const paths = frames((n) => `orr\u00e9.${n}.exr`, 14);
    expect(unsafeFiles(paths, ['orr\u00e9.####.exr'])).toEqual([...paths].sort());
  });

  it('are strays, leftovers and sequences that nobody ordered', () => {
    const odd = ['notes .txt ', 'beauty/a|b.0001.exr', 'aux.png', 'x/y?.0001.png', 'x/y?.0002.png'];
    expect(unsafeFiles([...frames((n) => `beauty/orr_010.${n}.exr`), ...odd], ['beauty/orr_010.####.exr'])).toEqual([...odd].sort());
  });

  it('tell a twin that differs only in case, once', () => {
    const paths = [...frames((n) => `beauty/orr_010.${n}.exr`), 'Beauty/ORR_010.0003.exr', 'readme.txt', 'README.txt'];
    const findings = unsafeFindings(paths, ['beauty/orr_010.####.exr']);
    expect(findings.flatMap(({ files }) => files).sort()).toEqual(['Beauty/ORR_010.0003.exr', 'README.txt']);
    expect(new Set(findings.map(({ detail }) => detail))).toEqual(new Set(['another name differs only in case']));
  });

  it('tell twins among frames whose own pattern has capitals', () => {
    const paths = [...frames((n) => `Beauty/B.${n}.exr`), ...frames((n) => `beauty/b.${n}.exr`)];
    expect(unsafeFiles(paths, ['Beauty/B.####.exr', 'beauty/b.####.exr'])).toEqual(frames((n) => `beauty/b.${n}.exr`));
  });

  it('are the same as when every path is looked at by itself', () => {
    const part = fc.constantFrom('beauty', 'Beauty', 'con', 'a b', 'c:', 'dot.', ' x', 'plain', 'Nul', 'z-1', 'caf\u00e9');
    const name = fc.oneof(
      fc.tuple(part, fc.integer({ min: 1, max: 14 })).map(([text, n]) => `${text}.${String(n).padStart(4, '0')}.exr`),
      part.map((text) => `${text}.txt`),
    );
    const path = fc.oneof(
      name,
      fc.tuple(part, name).map(([folder, file]) => `${folder}/${file}`),
    );
    fc.assert(
      fc.property(fc.uniqueArray(path, { maxLength: 25 }), (paths) => {
        const found = new Set(unsafeFiles(paths, ['beauty.####.exr', 'Beauty/plain.####.exr']));
        const seen = new Set<string>();
        for (const one of paths) {
          const reason = one.split('/').some((text) => unsafeNameReason(text) !== null);
          const lower = one.toLowerCase();
          const twin = seen.has(lower);
          seen.add(lower);
          if (reason) expect(found.has(one), one).toBe(true);
          // Of two files that claim one frame, that is told instead.
          else if (!twin) expect(found.has(one), one).toBe(false);
        }
      }),
      { numRuns: 300 },
    );
  });
});
