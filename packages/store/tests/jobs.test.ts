import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { makeDatabase } from '../../../tests/support/database.ts';
import {
  cancelJob,
  countEngines,
  createShot,
  ensureProject,
  findJob,
  finishJob,
  leaseJob,
  listNewestJobs,
  noteAbsence,
  notePresence,
  releaseJob,
  renewLease,
  requestJob,
  writeProgress,
  type Database,
} from '../src/index.ts';

let database: Database;
let shots: number[];

beforeAll(async () => {
  database = await makeDatabase();
  const { id: projectId } = await ensureProject(database, 'Saltglass', 'ada');
  shots = [];
  for (const name of ['a', 'b', 'c']) shots.push(await createShot(database, { projectId, name, note: '', root: 'demo', folder: name }, 'ada'));
});
beforeEach(() => database.change('DELETE FROM jobs'));
afterAll(() => database.close());

const request = (shot = shots[0]) => requestJob(database, shot, { kind: 'count' }, 'ada');
const runOut = (id: number) => database.change('UPDATE jobs SET lease_until = UTC_TIMESTAMP(3) - INTERVAL 1 SECOND WHERE id = ?', [id]);

describe('asking for a job', () => {
  it('gives the one that waits or runs already, however many ask at once', async () => {
    const ids = await Promise.all(Array.from({ length: 8 }, () => request()));
    expect(new Set(ids).size).toBe(1);
    await leaseJob(database, 'one');
    expect(await request()).toBe(ids[0]);
    await finishJob(database, ids[0], 'one', { state: 'done' });
    expect(await request()).not.toBe(ids[0]);
  });

  it('keeps kinds and shots apart', async () => {
    const count = await request();
    expect(await requestJob(database, shots[0], { kind: 'package', root: 'r', folder: 'f', person: 'Ada' }, 'ada')).not.toBe(count);
    expect(await request(shots[1])).not.toBe(count);
  });
});

describe('a lease', () => {
  it('gives each job to one engine, oldest first', async () => {
    const ids = [await request(shots[0]), await request(shots[1]), await request(shots[2])];
    const taken = await Promise.all(['one', 'two', 'three', 'four'].map((engine) => leaseJob(database, engine)));
    expect(
      taken
        .map((job) => job?.id ?? null)
        .filter((id) => id !== null)
        .sort(),
    ).toEqual(ids.sort());
    expect(await leaseJob(database, 'five')).toBeNull();
  });

  it('is renewed by its holder alone, and tells of a request to stop', async () => {
    const id = await request();
    await leaseJob(database, 'one');
    expect(await renewLease(database, id, 'one')).toBe('held');
    expect(await renewLease(database, id, 'two')).toBe('lost');
    await cancelJob(database, id);
    expect(await renewLease(database, id, 'one')).toBe('cancel');
  });

  it('passes to another engine when it runs out; the first can then write nothing', async () => {
    const id = await request();
    await leaseJob(database, 'one');
    await writeProgress(database, id, { phase: 'counting', done: 5, total: 10, bytesDone: 1, bytesTotal: 2 });
    await runOut(id);
    const again = await leaseJob(database, 'two');
    expect(again).toMatchObject({ id, progress: null });
    let wrote = false;
    expect(await finishJob(database, id, 'one', { state: 'done' }, async () => (wrote = true))).toBe(false);
    expect(wrote).toBe(false);
    expect(await renewLease(database, id, 'one')).toBe('lost');
    expect(await finishJob(database, id, 'two', { state: 'done' }, async () => (wrote = true))).toBe(true);
    expect(await findJob(database, id)).toMatchObject({ state: 'done' });
  });

  it('gives up a job that took down three engines', async () => {
    const id = await request();
    for (const engine of ['one', 'two', 'three']) {
      expect(await leaseJob(database, engine)).toMatchObject({ id });
      await runOut(id);
    }
    expect(await leaseJob(database, 'four')).toBeNull();
    expect(await findJob(database, id)).toMatchObject({ state: 'failed', error: { code: 'engine-lost' } });
  });

  it('given back on purpose is not counted against the job', async () => {
    const id = await request();
    for (let i = 0; i < 5; i++) {
      expect(await leaseJob(database, 'one')).toMatchObject({ id });
      await releaseJob(database, id, 'one');
    }
    expect(await findJob(database, id)).toMatchObject({ state: 'queued' });
  });
});

describe('the end of a job', () => {
  it('comes at once when it is stopped before it began', async () => {
    const id = await request();
    await cancelJob(database, id);
    expect(await findJob(database, id)).toMatchObject({ state: 'cancelled' });
    await cancelJob(database, id);
    expect(await leaseJob(database, 'one')).toBeNull();
  });

  it('comes when an engine was lost after the request to stop', async () => {
    const id = await request();
    await leaseJob(database, 'one');
    await cancelJob(database, id);
    await runOut(id);
    expect(await leaseJob(database, 'two')).toBeNull();
    expect(await findJob(database, id)).toMatchObject({ state: 'cancelled' });
  });

  it('is undone together with its work when that throws', async () => {
    const id = await request();
    await leaseJob(database, 'one');
    const work = finishJob(database, id, 'one', { state: 'done' }, async (inside) => {
      await inside.change("UPDATE shots SET note = 'changed' WHERE id = ?", [shots[0]]);
      throw new Error('no room');
    });
    await expect(work).rejects.toThrow('no room');
    expect(await findJob(database, id)).toMatchObject({ state: 'running' });
    expect(await database.rows("SELECT id FROM shots WHERE note = 'changed'")).toEqual([]);
  });

  it('shows in the newest job of each kind and shot, with its progress', async () => {
    const first = await request();
    await leaseJob(database, 'one');
    await writeProgress(database, first, { phase: 'counting', done: 1, total: 4, bytesDone: 10, bytesTotal: 40 });
    await writeProgress(database, first, { phase: 'counting', done: 3, total: 4, bytesDone: 30, bytesTotal: 40 });
    expect(await listNewestJobs(database)).toMatchObject([{ id: first, state: 'running', progress: { phase: 'counting', done: 3, total: 4 } }]);
    await finishJob(database, first, 'one', { state: 'failed', error: { code: 'x', message: 'It broke.', remedy: 'Mend it.' } });
    const second = await request();
    const newest = await listNewestJobs(database);
    expect(newest.map((job) => job.id)).toEqual([second]);
    expect(await findJob(database, first)).toMatchObject({ state: 'failed', error: { message: 'It broke.' } });
  });
});

describe('engines', () => {
  it('are counted while they are there', async () => {
    const engine = { id: 'e-1', host: 'bowline', processId: 42 };
    await notePresence(database, engine);
    await notePresence(database, engine);
    expect(await countEngines(database)).toBe(1);
    await noteAbsence(database, 'e-1');
    expect(await countEngines(database)).toBe(0);
  });
});
