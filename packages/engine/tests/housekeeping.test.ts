import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseBrief } from '@mint-tally/core';
import {
  createMerge,
  createShot,
  ensureProject,
  findMerge,
  listNewestJobs,
  mergeRequestSchema,
  newestMerge,
  newestResult,
  readHouse,
  requestJob,
  saveBrief,
  saveFileFacts,
  setMergeState,
  type Database,
} from '@mint-tally/store';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { testConfig } from '../../../tests/support/config.ts';
import { makeDatabase } from '../../../tests/support/database.ts';
import { takeJob } from '../../../tests/support/jobs.ts';
import { Housekeeper, type Config } from '../src/index.ts';

const DAY = 86_400_000;
let top: string;
let database: Database;
let config: Config;
let shot: number;
let projectId: number;

beforeAll(async () => {
  database = await makeDatabase();
  projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
});
beforeEach(async () => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-house-'));
  config = testConfig(top, [{ name: 'packages', writable: true }]);
  await database.change('DELETE FROM shots');
  shot = await createShot(database, { projectId, name: 'orr_010', note: '', root: 'packages', folder: '' }, 'ada');
});
afterAll(() => database.close());

const house = (now = Date.now()) => new Housekeeper(database, config, () => undefined).keep(now);
const age = (days: number) => new Date(Date.now() - days * DAY);
const sha = (letter: string) => letter.repeat(64);

function picture(name: string, days: number): string {
  const file = path.join(config.dataFolder, 'proxies', name.slice(0, 2), `${name}.webp`);
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, 'x'.repeat(100));
  utimesSync(file, age(days), age(days));
  return file;
}

describe('small pictures', () => {
  it('stay while a shot has their frame, whatever their age, and go some time after', async () => {
    const [known, layer, young, old] = [picture(sha('a'), 500), picture(`${sha('a')}-depth`, 500), picture(sha('b'), 13), picture(sha('c'), 15)];
    const facts = { edition: 3, level: 'full' as const, problem: null, header: null, trailingBytes: 0, notExamined: null, pixels: null, holes: [] };
    await saveFileFacts(database, shot, [{ path: 'f.1.exr', size: 1, modified: 1, sha256: sha('a'), facts }]);
    const found = await house();
    expect([known, layer, young, old].map((file) => existsSync(file))).toEqual([true, true, true, false]);
    expect(found).toMatchObject({ pictures: { files: 3, bytes: 300 }, gone: { pictures: { files: 1, bytes: 100 } } });
    expect(await readHouse(database)).toEqual(found);
  });
});

describe('records', () => {
  it('go after their time, but for the newest of each kind and state, and what goes on', async () => {
    const add = (state: string, days: number, kind = 'count') =>
      database.change(
        `INSERT INTO jobs (kind, shot_id, payload, state, result, created_at, finished_at, actor) VALUES (?, ?, '{"kind":"count"}', ?, '{"n":1}', ?, ?, 'ada')`,
        [kind, shot, state, age(days), state === 'running' ? null : age(days)],
      );
    for (let i = 0; i < 5; i++) await add('done', 300 - i);
    await add('failed', 100);
    const { insertedId: newest } = await add('done', 60);
    await add('done', 5, 'measure');
    await add('running', 400);
    expect((await house()).records.jobs).toBe(5);
    expect((await database.rows('SELECT state FROM jobs ORDER BY id')).map((row) => row.state)).toEqual(['failed', 'done', 'done', 'running']);
    expect(await newestResult(database, shot, 'count')).toEqual({ jobId: newest, result: { n: 1 } });
    expect(await listNewestJobs(database)).toHaveLength(3);
  });
});

describe('what merges set aside', () => {
  const request = mergeRequestSchema.parse({ sources: [{ root: 'packages', folder: 'x' }], rule: 'newer', way: 'move' });
  async function merge(days: number, state: 'done' | 'undone' | 'previewed'): Promise<{ id: number; folder: string }> {
    const id = await createMerge(database, shot, request, 'ada');
    await setMergeState(database, id, state);
    await database.change('UPDATE merges SET created_at = ? WHERE id = ?', [age(days), id]);
    const folder = path.join(config.dataFolder, 'merges', String(id));
    mkdirSync(path.join(folder, 'beauty'), { recursive: true });
    if (state !== 'undone') writeFileSync(path.join(folder, 'beauty', 'f.1.png'), 'y'.repeat(50));
    return { id, folder };
  }

  it('is kept its time, is told with the day on which it goes, and then can no longer be taken back', async () => {
    const [young, old, undone] = [await merge(89, 'done'), await merge(91, 'done'), await merge(1, 'undone')];
    const found = await house();
    expect([young, old, undone].map(({ folder }) => existsSync(folder))).toEqual([true, false, false]);
    expect(found.setAside).toEqual([{ mergeId: young.id, shotId: shot, files: 1, bytes: 50, goesAt: expect.any(Number) }]);
    expect(Math.abs(found.setAside[0].goesAt - (Date.now() + DAY))).toBeLessThan(60_000);
    expect((await findMerge(database, young.id))!.letGoAt).toBeNull();
    expect((await findMerge(database, old.id))!.letGoAt).not.toBeNull();
  });

  it('outlives its shot for its time', async () => {
    const { id, folder } = await merge(5, 'done');
    await database.change('DELETE FROM shots');
    expect((await house()).setAside).toMatchObject([{ mergeId: id, shotId: null }]);
    expect(existsSync(folder)).toBe(true);
    await house(Date.now() + 91 * DAY);
    expect(existsSync(folder)).toBe(false);
  });

  it('is no reason to keep previews that changed nothing, but the newest', async () => {
    await merge(50, 'previewed');
    const { id } = await merge(40, 'previewed');
    expect((await house()).records.previews).toBe(1);
    expect((await newestMerge(database, shot))!.id).toBe(id);
  });
});

describe('what dead jobs left', () => {
  it('goes: unfinished packages and test frames of jobs that do not run', async () => {
    await database.transaction((inside) =>
      saveBrief(inside, shot, parseBrief({ shot: 's', range: '1', passes: [{ name: 'a', pattern: 'a.####.png' }] }), 'ada'),
    );
    const dead = await requestJob(database, shot, { kind: 'package', root: 'packages', folder: 'reel/one', person: 'Ada' }, 'ada');
    await takeJob(database, 'engine');
    await database.change("UPDATE jobs SET state = 'failed', finished_at = NOW() WHERE id = ?", [dead]);
    const alive = await requestJob(database, shot, { kind: 'package', root: 'packages', folder: 'reel/two', person: 'Ada' }, 'ada');
    await takeJob(database, 'engine');
    const reel = path.join(top, 'packages', 'reel');
    for (const name of [`.one.unfinished-${dead}`, `.two.unfinished-${alive}-00ff`, 'one', '.git']) mkdirSync(path.join(reel, name), { recursive: true });
    for (const job of [dead, alive]) mkdirSync(path.join(config.dataFolder, 'tests', String(job)), { recursive: true });
    expect((await house()).gone.unfinished).toBe(2);
    expect(readdirSync(reel).sort()).toEqual(['.git', `.two.unfinished-${alive}-00ff`, 'one']);
    expect(readdirSync(path.join(config.dataFolder, 'tests'))).toEqual([String(alive)]);
    rmSync(top, { recursive: true, force: true });
  });
});
