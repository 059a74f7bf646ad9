import { describe, expect, it } from 'vitest';
import {
  assignFiles,
  findMendConflicts,
  orderMoves,
  parseBrief,
  planRename,
  planRenumber,
  planSwap,
  planTrim,
  presentIn,
  recipeSchema,
  workOutOrder,
  type MendStep,
} from '../src/index.ts';

const NOW = 1e12;
const order = workOutOrder(
  parseBrief({
    shot: 'orr_010',
    range: '1001-1004',
    passes: [
      { name: 'beauty', pattern: 'beauty/orr_010_v003_beauty.####.exr' },
      { name: 'depth', pattern: 'depth/depth.####.exr' },
    ],
  }),
);
const listed = (paths: readonly string[]) => paths.map((path) => ({ path, size: 10, modified: NOW - 1e9, kind: 'file' as const }));
const assigned = (...paths: string[]) => assignFiles(order, listed(paths), NOW);
const rename = (from: string, to: string): MendStep => ({ action: 'rename', from, to, reason: '' });
const shortly = (steps: readonly MendStep[]) => steps.map(({ action, from, to }) => `${action} ${from} ${to}`);

describe('renaming to the brief', () => {
  it('mends padding, separators, case and slips, and leaves what is right', () => {
    const { steps, conflicts } = planRename(
      order,
      assigned(
        'beauty/orr_010_v003_beauty.1001.exr',
        'beauty/orr_010_v003_beauty.01002.exr',
        'beauty/orr-010-v003-beauty.1003.exr',
        'depth/Depth.1001.EXR',
        'depth/Depth.1002.EXR',
        'depth/Depth.1003.EXR',
      ),
    );
    expect(conflicts).toEqual([]);
    expect(shortly(steps)).toEqual([
      'rename beauty/orr_010_v003_beauty.01002.exr beauty/orr_010_v003_beauty.1002.exr',
      'rename beauty/orr-010-v003-beauty.1003.exr beauty/orr_010_v003_beauty.1003.exr',
      ...[1001, 1002, 1003].map((frame) => `rename depth/Depth.${frame}.EXR depth/depth.${frame}.exr`),
    ]);
    expect(steps.every(({ reason }) => reason !== '')).toBe(true);
  });

  it('takes two files for one frame for a conflict', () => {
    const { steps, conflicts } = planRename(order, assigned('depth/depth.1001.exr', 'depth/depth.01001.exr', 'depth/depth.01002.exr'));
    expect(shortly(steps)).toEqual(['rename depth/depth.01002.exr depth/depth.1002.exr']);
    expect(conflicts).toEqual([
      { files: ['depth/depth.1001.exr', 'depth/depth.01001.exr'], message: expect.stringContaining('frame 1001 of depth') as string },
    ]);
  });

  it('gives all files of another version the ordered one, but not a few among others', () => {
    const frames = (version: string, ...numbers: number[]) => numbers.map((frame) => `beauty/orr_010_${version}_beauty.${frame}.exr`);
    expect(planRename(order, assigned(...frames('v002', 1001, 1002))).steps).toHaveLength(2);
    expect(planRename(order, assigned(...frames('v003', 1001, 1002), ...frames('v002', 1003))).steps).toEqual([]);
  });

  it('leaves another format alone', () => {
    expect(planRename(order, assigned('depth/depth.1001.png')).steps).toEqual([]);
  });
});

describe('renumbering', () => {
  it('moves all passes by so many frames, also those that were not ordered', () => {
    const names = [1, 2, 3].flatMap((frame) => [`beauty/orr_010_v003_beauty.000${frame}.exr`, `depth/depth.000${frame}.exr`]);
    expect(shortly(planRenumber(order, assigned(...names), 1000).steps).sort()).toEqual(
      [1, 2, 3]
        .flatMap((f) => [
          `rename beauty/orr_010_v003_beauty.000${f}.exr beauty/orr_010_v003_beauty.100${f}.exr`,
          `rename depth/depth.000${f}.exr depth/depth.100${f}.exr`,
        ])
        .sort(),
    );
    expect(planRenumber(order, assigned(...names), 0).steps).toEqual([]);
  });
});

describe('swapping two passes', () => {
  it('gives the files of each the names of the other, ordered or not', () => {
    const files = ['beauty/orr_010_v003_beauty.1001.exr', 'depth/depth.1001.exr', 'depth/depth.1009.exr'];
    expect(shortly(planSwap(order, assigned(...files), ['depth', 'beauty']).steps)).toEqual([
      'rename beauty/orr_010_v003_beauty.1001.exr depth/depth.1001.exr',
      'rename depth/depth.1001.exr beauty/orr_010_v003_beauty.1001.exr',
      'rename depth/depth.1009.exr beauty/orr_010_v003_beauty.1009.exr',
    ]);
  });

  it('says where the two are not two passes with files', () => {
    for (const other of ['depth', 'nothing']) expect(planSwap(order, assigned('depth/depth.1001.exr'), ['depth', other]).conflicts).toHaveLength(1);
  });
});

describe('trimming', () => {
  it('sets aside what is outside the range, leftovers and strays, with their path kept', () => {
    const { steps } = planTrim(
      order,
      assigned('depth/depth.1001.exr', 'depth/depth.1005.exr', 'depth/depth.1002.exr.tmp', 'notes.txt', 'brief.json', 'other/a.0001.png', 'other/a.0002.png'),
      new Set(['brief.json']),
    );
    expect(shortly(steps)).toEqual([
      'set-aside depth/depth.1005.exr depth/depth.1005.exr',
      'set-aside depth/depth.1002.exr.tmp depth/depth.1002.exr.tmp',
      'set-aside notes.txt notes.txt',
    ]);
    expect(steps.map(({ reason }) => reason)).toEqual([
      'frame 1005 is outside of 1001-1004, which is ordered of depth',
      'it was left behind by a write that did not end',
      'it belongs to no ordered pass',
    ]);
  });
});

describe('what stands against a plan', () => {
  const conflictsOf = (steps: MendStep[], ...paths: string[]) => findMendConflicts(steps, presentIn(paths)).map(({ message }) => message);

  it('is nothing of swaps and rings', () => {
    expect(conflictsOf([rename('a', 'b'), rename('b', 'a')], 'a', 'b')).toEqual([]);
    expect(conflictsOf([rename('a', 'b'), rename('b', 'c'), rename('c', 'a')], 'a', 'b', 'c')).toEqual([]);
    expect(conflictsOf([rename('a', 'A')], 'a')).toEqual([]);
  });

  it.each<[string, MendStep[], string[]]>([
    ['a name that somebody else bears', [rename('a', 'b')], ['b is there already.']],
    ['a name that differs in case alone', [rename('a', 'B')], ['b is there already, and differs in case alone.']],
    ['two files for one name', [rename('a', 'c'), rename('b', 'c')], ['Both would become c.']],
    ['two names for one file', [rename('a', 'c'), rename('a', 'd')], ['a cannot become both c and d.']],
    ['a file that is not there', [rename('x', 'y')], ['x is not there.']],
    ['a file that becomes itself', [rename('a', 'a')], ['a would become itself.']],
    ['a path that leads out', [rename('a', '../a'), rename('/etc/passwd', 'p')], ['../a leads out of the folder.', '/etc/passwd leads out of the folder.']],
  ])('is %s', (_, steps, messages) => {
    expect(conflictsOf(steps, 'a', 'b')).toEqual(messages);
  });
});

describe('the order of moves', () => {
  /** Makes the moves on names alone. @throws Error where one would take another's name */
  function played(moves: ReturnType<typeof orderMoves>, names: readonly string[]): Map<string, string> {
    const files = new Map(names.map((name) => [name, name]));
    for (const { from, to, way } of moves) {
      if (!files.has(from)) throw new Error(`${from} is not there`);
      if (files.has(to)) throw new Error(`${to} is taken`);
      files.set(to, files.get(from)!);
      if (way === 'move') files.delete(from);
    }
    return files;
  }

  it('never takes a name that is borne, whatever the rows and rings: two hundred shuffles', () => {
    let state = 7;
    const random = (below: number) => (state = (state * 48271) % 2147483647) % below;
    for (let round = 0; round < 200; round++) {
      const count = 2 + random(30);
      const names = Array.from({ length: count }, (_, i) => `f${i}`);
      // Some go to new names, the others among each other.
      const targets = names.map((name, i) => (random(4) === 0 ? `new${i}` : name));
      for (let i = count - 1; i > 0; i--) {
        const j = random(i + 1);
        [targets[i], targets[j]] = [targets[j]!, targets[i]!];
      }
      const steps = names.map((name, i) => rename(name, targets[i]!)).filter(({ from, to }) => from !== to);
      // A file that stays must not be in the way of another.
      if (findMendConflicts(steps, presentIn(names)).length > 0) continue;
      const files = played(
        orderMoves(steps, (step) => `waiting/${step}`),
        names,
      );
      for (const { from, to } of steps) expect(files.get(to)).toBe(from);
      expect(files.size).toBe(count);
    }
  });

  it('shifts ten thousand numbers by one, and back, without a hop', () => {
    const names = Array.from({ length: 10_000 }, (_, i) => `f.${i}`);
    for (const by of [1, -1]) {
      const steps = names.map((name, i) => rename(name, `f.${i + by}`));
      const moves = orderMoves(steps, (step) => `waiting/${step}`);
      expect(moves).toHaveLength(10_000);
      expect(played(moves, names).get(`f.${5000 + by}`)).toBe('f.5000');
    }
  });

  it('copies what goes away, and makes what is made, before anything moves', () => {
    const recipe = recipeSchema.parse({ format: 'png' });
    const steps: MendStep[] = [
      rename('a', 'b'),
      { action: 'write', from: 'a', to: 'c', reason: '' },
      { action: 'set-aside', from: 'm', to: 'aside/m', reason: '' },
      { action: 'write', from: 'm', to: 'm', reason: '', recipe },
    ];
    expect(findMendConflicts(steps.slice(0, 3), presentIn(['a', 'm']))).toEqual([]);
    const moves = orderMoves(steps, (step) => `waiting/${step}`);
    expect(moves.map(({ from, to, way }) => `${way} ${from} ${to}`)).toEqual([
      'copy a waiting/1',
      'make m waiting/3',
      'move a b',
      'move waiting/1 c',
      'move m aside/m',
      'move waiting/3 m',
    ]);
    const files = played(moves, ['a', 'm']);
    expect([...files].sort()).toEqual([
      ['aside/m', 'm'],
      ['b', 'a'],
      ['c', 'a'],
      ['m', 'm'],
    ]);
  });

  it('lets one of a ring wait', () => {
    const moves = orderMoves([rename('a', 'b'), rename('b', 'a')], (step) => `waiting/${step}`);
    expect(moves.map(({ from, to }) => `${from} ${to}`)).toEqual(['a waiting/0', 'b a', 'waiting/0 b']);
  });
});
