import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { describeChanges, findChanges, isUnchanged, joinChanges, type Changes } from '../src/index.ts';

interface Stamp {
  size: number;
  modified: number;
}

const folder = fc.dictionary(fc.constantFrom('a', 'b', 'c', 'd', 'e', 'f'), fc.record({ size: fc.nat(2), modified: fc.nat(2) }));

function compare(before: Record<string, Stamp>, after: Record<string, Stamp>) {
  const there = Object.entries(after).map(([path, stamp]) => ({ path, ...stamp }));
  return findChanges(new Map(Object.entries(before)), there, (path) => path in after);
}

describe('what changed since the last count', () => {
  it('puts every file of either folder into one place, or into none when it is as it was', () => {
    fc.assert(
      fc.property(folder, folder, (before, after) => {
        const { arrived, replaced, vanished } = compare(before, after);
        for (const path of new Set([...Object.keys(before), ...Object.keys(after)])) {
          const places = [arrived, replaced, vanished].map(({ paths }) => paths.includes(path));
          const [old, now] = [before[path], after[path]];
          const same = old !== undefined && now !== undefined && old.size === now.size && old.modified === now.modified;
          expect(places).toEqual([old === undefined, old !== undefined && now !== undefined && !same, now === undefined]);
        }
      }),
    );
  });

  it('is nothing for the same folder, and turns round when the folders do', () => {
    fc.assert(
      fc.property(folder, folder, (before, after) => {
        expect(isUnchanged(compare(before, before))).toBe(true);
        const [there, back] = [compare(before, after), compare(after, before)];
        expect(there.arrived).toEqual(back.vanished);
        expect(there.replaced).toEqual(back.replaced);
      }),
    );
  });

  it('counts all, and keeps the first paths of very many', () => {
    const after = Object.fromEntries(Array.from({ length: 2000 }, (_, i) => [`beauty.${10_000 + i}.exr`, { size: 1, modified: 1 }]));
    const { arrived } = compare({}, after);
    expect(arrived).toMatchObject({ count: 2000 });
    expect(arrived.paths).toHaveLength(500);
    expect(arrived.paths[0]).toBe('beauty.10000.exr');
  });
});

describe('changes one after the other', () => {
  const of = (parts: Partial<Record<keyof Changes, string[]>>): Changes => {
    const some = (paths: string[] = []) => ({ count: paths.length, paths });
    return { arrived: some(parts.arrived), replaced: some(parts.replaced), vanished: some(parts.vanished) };
  };

  it('tell a file once, as it was told last', () => {
    const joined = joinChanges([of({ arrived: ['a', 'b'] }), of({ replaced: ['a'], vanished: ['c'] }), of({ vanished: ['a'] })]);
    expect(joined).toEqual(of({ arrived: ['b'], vanished: ['a', 'c'] }));
    expect(isUnchanged(joinChanges([]))).toBe(true);
  });

  it('are said in a line, the first by name', () => {
    expect(describeChanges(of({}))).toBe('');
    expect(describeChanges(of({ replaced: ['b.1003.exr'], vanished: ['a', 'b', 'c', 'd', 'e'] }))).toBe(
      '1 file replaced (b.1003.exr); 5 files gone (a, b, c and 2 more)',
    );
  });
});
