import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseBrief, type JobRequest } from '@mint-tally/core';
import {
  createBatch,
  createShot,
  ensureProject,
  listMends,
  newestBrief,
  newestTally,
  readMendSteps,
  requestJob,
  saveBrief,
  batchSettingsSchema,
  type Database,
} from '@mint-tally/store';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { testConfig } from '../../../tests/support/config.ts';
import { makeDatabase } from '../../../tests/support/database.ts';
import { startEngine } from '../../../tests/support/engine.ts';
import { pngBytes } from '../../../tests/support/frames.ts';
import { settleJob } from '../../../tests/support/jobs.ts';
import { planMend, readMends, type Config } from '../src/index.ts';

let top = '';
let database: Database;
let config: Config;
let engine: Awaited<ReturnType<typeof startEngine>>;
let projectId: number;

beforeAll(async () => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-mend-jobs-'));
  database = await makeDatabase();
  projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  config = testConfig(top, [
    { name: 'shots', writable: true },
    { name: 'locked', writable: false },
  ]);
  engine = await startEngine(database, config, 1);
});
afterAll(async () => {
  await engine.stop();
  await database.close();
  rmSync(top, { recursive: true, force: true });
});

const order = parseBrief({ shot: 'orr_010', range: '1001-1004', passes: [{ name: 'beauty', pattern: 'beauty.####.png' }] });
const MISNAMED = ['Beauty.1001.png', 'Beauty.1002.png', 'beauty.01003.png', 'beauty.1004.png'];

async function makeShot(name: string, root = 'shots') {
  const folder = path.join(top, root, name);
  mkdirSync(folder);
  MISNAMED.forEach((file, i) => writeFileSync(path.join(folder, file), pngBytes(i)));
  const id = await createShot(database, { projectId, name, note: '', root, folder: name }, 'ada');
  await database.transaction((inside) => saveBrief(inside, id, order, 'ada'));
  const seen = async () => (await planMend({ folder, brief: order, wish: { kind: 'rename', aside: [] }, kept: new Set(), now: Date.now() })).seen;
  const act = async (request: Partial<Extract<JobRequest, { kind: 'mend' }>>) =>
    settleJob(
      database,
      await requestJob(database, id, { kind: 'mend', action: 'apply', wish: { kind: 'rename', aside: [] }, seen: '', until: null, ...request }, 'ada'),
    );
  return {
    id,
    folder,
    seen,
    act,
    files: () =>
      readdirSync(folder)
        .filter((file) => !file.startsWith('.'))
        .sort(),
  };
}

describe('a mend of a shot', () => {
  it('is done as it was previewed, counted, noted, and taken back', async () => {
    const { id, folder, seen, act, files } = await makeShot('usual');
    const bytes = () => files().map((file) => readFileSync(path.join(folder, file)).toString('hex'));
    const before = bytes();
    expect(await act({ seen: await seen() })).toMatchObject({ state: 'done', error: null });
    expect(files()).toEqual(['beauty.1001.png', 'beauty.1002.png', 'beauty.1003.png', 'beauty.1004.png']);
    expect(bytes().sort()).toEqual(before.sort());
    const [noted] = await listMends(database, id, 10);
    expect(noted).toMatchObject({ says: 'rename to the brief', files: 3, actor: 'ada', undoneAt: null });
    expect((await readMendSteps(database, id, noted!.id))!.map(({ from }) => from)).toEqual(['Beauty.1001.png', 'Beauty.1002.png', 'beauty.01003.png']);
    for (let i = 0; i < 200 && (await newestTally(database, id)) === null; i++) await new Promise((resolve) => setTimeout(resolve, 20));
    expect((await newestTally(database, id))!.tally.passes[0]!.sound).toBe(4);
    expect(await act({ action: 'undo', wish: null, seen: noted!.journal })).toMatchObject({ state: 'done', error: null });
    expect(files()).toEqual([...MISNAMED].sort());
    expect((await listMends(database, id, 10))[0]).toMatchObject({ undoneBy: 'ada' });
    expect(await readMends(folder)).toEqual([]);
    // Once more, since nothing of it is left.
    expect(await act({ action: 'undo', wish: null, seen: noted!.journal })).toMatchObject({ state: 'done', error: null });
    expect(files()).toEqual([...MISNAMED].sort());
  });

  it('is not done when the files have changed since the preview', async () => {
    const { seen, act, folder, files } = await makeShot('changed');
    const previewed = await seen();
    writeFileSync(path.join(folder, 'Beauty.1003.png'), pngBytes(9));
    rmSync(path.join(folder, 'beauty.01003.png'));
    const there = files();
    expect(await act({ seen: previewed })).toMatchObject({ state: 'failed', error: { code: 'mend-changed' } });
    expect(files()).toEqual(there);
    expect(await act({ seen: await seen() })).toMatchObject({ state: 'done' });
  });

  it('that gave a file up for another asks for nothing once it is done', async () => {
    const { folder, act } = await makeShot('given-up');
    writeFileSync(path.join(folder, 'beauty.01004.png'), pngBytes(5));
    const wish = { kind: 'rename' as const, aside: ['beauty.01004.png'] };
    const plan = () => planMend({ folder, brief: order, wish, kept: new Set(), now: Date.now() });
    expect((await plan()).steps).toHaveLength(4);
    expect(await act({ wish, seen: (await plan()).seen })).toMatchObject({ state: 'done', error: null });
    expect(await plan()).toMatchObject({ steps: [], conflicts: [] });
  });

  it('is not done twice when it is asked for twice', async () => {
    const { id, seen, act } = await makeShot('twice');
    const previewed = await seen();
    const both = await Promise.all([act({ seen: previewed }), act({ seen: previewed })]);
    expect(both.map(({ state }) => state)).toEqual(['done', 'done']);
    expect(await listMends(database, id, 10)).toHaveLength(1);
  });

  it('is refused where nothing may be written, and while a batch writes there', async () => {
    const locked = await makeShot('closed', 'locked');
    expect(await locked.act({ seen: await locked.seen() })).toMatchObject({ state: 'failed', error: { code: 'not-writable' } });
    const { id, seen, act, files } = await makeShot('batch');
    const briefId = (await newestBrief(database, id))!.id;
    await database.transaction((inside) =>
      createBatch(inside, { shotId: id, briefId, service: null, command: [], settings: batchSettingsSchema.parse({}) }, [], 'ada'),
    );
    expect(await act({ seen: await seen() })).toMatchObject({ state: 'failed', error: { code: 'batch-writes' } });
    expect(files()).toEqual([...MISNAMED].sort());
  });
});
