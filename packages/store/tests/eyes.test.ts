import { ALL_PARTS, parseBrief, type PassContents } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeDatabase } from '../../../tests/support/database.ts';
import {
  addSights,
  createShot,
  ensureProject,
  listSights,
  listWatchers,
  readPassContents,
  readStateKey,
  removeShot,
  saveBrief,
  savePassContents,
  type Database,
} from '../src/index.ts';

let database: Database;
let projectId: number;
let count = 0;

beforeAll(async () => {
  database = await makeDatabase();
  projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
});
afterAll(() => database.close());

async function newShot(): Promise<number> {
  const id = await createShot(database, { projectId, name: `shot_${++count}`, note: '', root: 'demo', folder: '' }, 'ada');
  const brief = parseBrief({ shot: 's', range: '1-2', passes: [{ name: 'beauty', pattern: 'b.####.exr' }] });
  await database.transaction((inside) => saveBrief(inside, id, brief, 'ada'));
  return id;
}
const CONTENT = 'fedcba9876543210';
const sight = (frame: number, change: object = {}) => ({ frame, content: CONTENT, way: 'full' as const, parts: 1, ...change });
const add = (shotId: number, sights: ReturnType<typeof sight>[], person = 'Ada', pass = 'beauty') =>
  database.transaction((inside) => addSights(inside, shotId, pass, sights, person));

describe('what has been seen', () => {
  it('adds up part by part, apart for each content and way', async () => {
    const shotId = await newShot();
    await add(shotId, [sight(1001), sight(-3, { parts: ALL_PARTS })]);
    await add(shotId, [sight(1001, { parts: 6 }), sight(1001, { way: 'stepped', parts: 8 }), sight(1001, { content: '0'.repeat(16) })]);
    const rows = await listSights(database, shotId);
    expect(rows.map(({ pass, frame, content, way, parts }) => [pass, frame, content, way, parts]).sort()).toEqual(
      [
        ['beauty', -3, CONTENT, 'full', ALL_PARTS],
        ['beauty', 1001, '0'.repeat(16), 'full', 1],
        ['beauty', 1001, CONTENT, 'full', 7],
        ['beauty', 1001, CONTENT, 'stepped', 8],
      ].sort(),
    );
  });

  it('changes what the pages of the shot are made from, and nothing when there is nothing', async () => {
    const shotId = await newShot();
    const before = await readStateKey(database, shotId);
    await add(shotId, []);
    expect(await readStateKey(database, shotId)).toBe(before);
    await add(shotId, [sight(1)]);
    expect(await readStateKey(database, shotId)).not.toBe(before);
  });

  it('names who watched at full rate and size, and nobody else', async () => {
    const shotId = await newShot();
    await add(shotId, [sight(1), sight(2)], 'Ada');
    await add(shotId, [sight(2)], 'Ben');
    await add(shotId, [sight(1, { way: 'fitted' })], 'Cem');
    expect((await listWatchers(database, shotId)).map(({ person }) => person).sort()).toEqual(['Ada', 'Ben']);
  });

  it('goes with the shot', async () => {
    const shotId = await newShot();
    await add(shotId, [sight(1)]);
    await database.transaction((inside) => savePassContents(inside, shotId, [{ pass: 'beauty', frames: [1], contents: [CONTENT] }]));
    await database.transaction((inside) => removeShot(inside, shotId));
    expect([await listSights(database, shotId), await readPassContents(database, shotId)]).toEqual([[], []]);
  });
});

describe('the contents of a shot', () => {
  it('come back as they were kept, and make room for those of the next count', async () => {
    const shotId = await newShot();
    const first: PassContents[] = [
      { pass: 'beauty', frames: [-5, 1001, 999_999], contents: [CONTENT, '0'.repeat(16), 'f'.repeat(16)] },
      { pass: 'depth', frames: [], contents: [] },
    ];
    await database.transaction((inside) => savePassContents(inside, shotId, first));
    expect((await readPassContents(database, shotId)).sort((a, b) => (a.pass < b.pass ? -1 : 1))).toEqual(first);
    await database.transaction((inside) => savePassContents(inside, shotId, [first[1]!]));
    expect(await readPassContents(database, shotId)).toEqual([first[1]]);
  });

  it('are told as unreadable where somebody cut them', async () => {
    const shotId = await newShot();
    await database.change("INSERT INTO pass_contents (shot_id, pass, body) VALUES (?, 'beauty', 'abc')", [shotId]);
    await expect(readPassContents(database, shotId)).rejects.toThrow('The contents of beauty cannot be read');
  });
});
