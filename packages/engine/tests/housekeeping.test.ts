import { existsSync, mkdirSync, mkdtempSync, readdirSync, realpathSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseBrief, SET_ASIDE } from '@mint-tally/core';
import {
  createMerge,
  createShot,
  ensureProject,
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
import { keepAside } from '../src/mending/kept.ts';
import { applyMend, undoMend } from '../src/mending/mend-folder.ts';

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

describe('what mends set aside', () => {
  const order = parseBrief({ shot: 'orr_010', range: '1-2', passes: [{ name: 'beauty', pattern: 'f.####.png' }] });
  /** A mend of so many days ago that took a file out. */
  async function mend(days: number, name: string): Promise<string> {
    const folder = path.join(top, 'packages');
    mkdirSync(folder, { recursive: true });
    writeFileSync(path.join(folder, name), 'y'.repeat(50));
    const steps = [{ action: 'set-aside' as const, from: name, to: name, reason: '' }];
    const done = await applyMend({ folder: realpathSync(folder), brief: order, wish: { kind: 'plan', steps }, kept: new Set(), now: Date.now() - days * DAY });
    return path.join(folder, SET_ASIDE, done!.id, 'files', name);
  }

  it('is kept its time, is told with the day on which it goes, and then can no longer be taken back', async () => {
    const [old, young] = [await mend(91, 'old.png'), await mend(89, 'young.png')];
    const found = await house();
    expect([young, old].map((file) => existsSync(file))).toEqual([true, false]);
    expect(found.setAside).toEqual([{ shotId: shot, says: 'a plan by hand', files: 1, bytes: 50, goesAt: expect.any(Number) }]);
    expect(Math.abs(found.setAside[0].goesAt - (Date.now() + DAY))).toBeLessThan(60_000);
    expect(found.gone.setAside).toEqual({ files: 1, bytes: 50 });
    const folder = realpathSync(path.join(top, 'packages'));
    expect((await undoMend(folder))!.head.steps[0]!.from).toBe('young.png');
    await expect(undoMend(folder)).rejects.toMatchObject({ code: 'let-go' });
  });

  it('is kept longer where somebody says so, and no longer where the time is over', async () => {
    const file = await mend(1, 'long.png');
    const [id] = readdirSync(path.join(top, 'packages', SET_ASIDE));
    await keepAside(realpathSync(path.join(top, 'packages')), id!, new Date(Date.now() + 400 * DAY));
    await house(Date.now() + 300 * DAY);
    expect(existsSync(file)).toBe(true);
    await house(Date.now() + 401 * DAY);
    expect(existsSync(file)).toBe(false);
  });

  it('is no reason to keep previews of merges that changed nothing, but the newest', async () => {
    const request = mergeRequestSchema.parse({ sources: [{ root: 'packages', folder: 'x' }], rule: 'newer', way: 'move' });
    const merge = async (days: number) => {
      const id = await createMerge(database, shot, request, 'ada');
      await setMergeState(database, id, 'previewed');
      await database.change('UPDATE merges SET created_at = ? WHERE id = ?', [age(days), id]);
      return id;
    };
    await merge(50);
    const id = await merge(40);
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
