import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { parseBrief } from '@mint-tally/core';
import { makeDatabase } from '../../../tests/support/database.ts';
import { makeShots, takeJob } from '../../../tests/support/jobs.ts';
import {
  addWaiver,
  Bell,
  cancelJob,
  countEngines,
  createShot,
  findJob,
  finishJob,
  firstProject,
  listNewestJobs,
  newestResult,
  noteAbsence,
  notePresence,
  requestJob,
  saveBrief,
  writeProgress,
  type Database,
  type Takes,
} from '../src/index.ts';

let database: Database;
let shots: number[];

beforeAll(async () => {
  database = await makeDatabase();
  shots = await makeShots(database);
});
beforeEach(() => database.change('DELETE FROM jobs'));
afterAll(() => database.close());

const count = (shot = shots[0]) => requestJob(database, shot, { kind: 'count' }, 'ada');
const pack = (folder: string, person = 'Ada') => requestJob(database, shots[0], { kind: 'package', root: 'r', folder, person }, 'ada');
const merge = (number: number, action: 'preview' | 'run' | 'undo') => requestJob(database, shots[0], { kind: 'merge', merge: number, action }, 'ada');
const take = (engine: string, takes?: Partial<Takes>) => takeJob(database, engine, takes);
const runOut = (id: number) => database.change('UPDATE jobs SET lease_until = UTC_TIMESTAMP(3) - INTERVAL 1 SECOND WHERE id = ?', [id]);
const stateOf = async (id: number) => (await findJob(database, id))!.state;
const briefOf = (range: string) => parseBrief({ shot: 'orr_010', range, passes: [{ name: 'beauty', pattern: 'b.####.exr' }] });

describe('asking for a job', () => {
  it('gives the one that waits, however many ask at once', async () => {
    const ids = await Promise.all(Array.from({ length: 8 }, () => count()));
    expect(new Set(ids).size).toBe(1);
  });

  it('lets a count wait behind one that runs, and is taken once that has ended', async () => {
    const first = await count();
    await take('one');
    const second = await count();
    expect(second).not.toBe(first);
    expect(await count()).toBe(second);
    expect(await take('two')).toBeNull();
    await finishJob(database, first, 'one', { state: 'done' });
    expect(await take('two')).toMatchObject({ id: second });
  });

  it('carries on what waits with the newest request', async () => {
    await merge(1, 'preview');
    await take('one');
    const waiting = await merge(2, 'preview');
    expect(await merge(3, 'preview')).toBe(waiting);
    expect((await findJob(database, waiting))!.request).toEqual({ kind: 'merge', merge: 3, action: 'preview' });
  });

  it('gives up no wish for another that stands for something else', async () => {
    const ids = [
      await pack('a'),
      await pack('b'),
      await merge(1, 'run'),
      await merge(1, 'undo'),
      await merge(2, 'preview'),
      await count(),
      await count(shots[1]),
    ];
    expect(new Set(ids).size).toBe(ids.length);
    expect(await pack('a', 'Bea')).toBe(ids[0]);
  });

  it('runs one job of a kind and shot at a time, in their order', async () => {
    const ids = [await pack('a'), await pack('b'), await pack('c')];
    for (const id of ids) {
      const taken = await Promise.all(['one', 'two', 'three'].map((engine) => take(engine)));
      expect(taken.flatMap((job) => job?.id ?? [])).toEqual([id]);
      const owner = ['one', 'two', 'three'][taken.findIndex((job) => job !== null)];
      await finishJob(database, id, owner, { state: 'done' });
    }
    expect(await take('one')).toBeNull();
  });

  it.each([
    ['is done with the running one when it says the same', async () => pack('a'), 'done'],
    ['is done again when somebody else asks', async () => pack('a', 'Bea'), 'queued'],
    [
      'is done again when the brief has changed since that one began',
      async () => {
        await database.transaction((inside) => saveBrief(inside, shots[0], briefOf('1-20'), 'ada'));
        return pack('a');
      },
      'queued',
    ],
    [
      'is done again when something was waived since that one began',
      async () => {
        const waiver = { subject: { kind: 'gate', gate: 'eyes', content: 'x' } as const, person: 'Ada', reason: 'watched' };
        await database.transaction((inside) => addWaiver(inside, shots[0], waiver, 'ada'));
        return pack('a');
      },
      'queued',
    ],
    ['is done again when it is a count: files change unseen', async () => count(), 'queued'],
  ])('%s', async (_, ask, state) => {
    await pack('a');
    await count();
    const running = [(await take('one'))!, (await take('one'))!];
    const id = await ask();
    expect(running.map((job) => job.id)).not.toContain(id);
    for (const job of running) await finishJob(database, job.id, 'one', { state: 'done' }, async () => ({ came: 'to this' }));
    expect(await stateOf(id)).toBe(state);
    if (state === 'done') expect(await newestResult(database, shots[0], 'package')).toEqual({ jobId: id, result: { came: 'to this' } });
  });

  it('is stopped together with the same wish behind it, and alone before another', async () => {
    const first = await pack('a');
    await take('one');
    const [same, other] = [await pack('a'), await pack('b')];
    await cancelJob(database, first);
    expect([await stateOf(same), await stateOf(other)]).toEqual(['cancelled', 'queued']);
  });

  it('inside a transaction takes no turns and holds nobody up, while the job that runs ends', async () => {
    const projectId = (await firstProject(database))!.id;
    const many = await Promise.all(
      Array.from({ length: 20 }, (_, i) => createShot(database, { projectId, name: `many ${i}`, note: '', root: 'demo', folder: '' }, 'ada')),
    );
    const last = many.at(-1)!;
    const running = await count(last);
    await take('one');
    const meanwhile: Promise<unknown>[] = [];
    // A snapshot from before the others ask is what once made this go round for ever.
    await database.transaction(async (inside) => {
      await inside.rows('SELECT id FROM jobs');
      for (const shot of many) {
        await saveBrief(inside, shot, briefOf('1-30'), 'ada');
        await requestJob(inside, shot, { kind: 'count' }, 'ada');
        if (shot === many[0]) meanwhile.push(count(last), finishJob(database, running, 'one', { state: 'done' }));
        await sleep(5);
      }
    });
    expect(await Promise.all(meanwhile)).toEqual([expect.any(Number), true]);
    const waiting = await database.rows("SELECT id FROM jobs WHERE state = 'queued'");
    expect(waiting).toHaveLength(many.length);
  });
});

describe('the bell', () => {
  it('is heard at once by an engine that waits, and once a second by one that nobody rings for', async () => {
    const bell = new Bell(database);
    await bell.wait([], true);
    const quiet = performance.now();
    expect(await bell.wait([], true)).toBe(false);
    expect(performance.now() - quiet).toBeGreaterThan(900);
    const waiting = bell.wait([], true).then((heard) => ({ heard, at: performance.now() }));
    await sleep(200);
    const asked = performance.now();
    await count();
    const { heard, at } = await waiting;
    expect(heard).toBe(true);
    // It would have asked by itself 800 ms later.
    expect(at - asked).toBeLessThan(600);
    bell.close();
  });

  it('rings when what was asked for can be seen, not before', async () => {
    const bell = new Bell(database);
    await bell.wait([], true);
    let committed = false;
    const waiting = bell.wait([], true).then((heard) => ({ heard, committed }));
    await database.transaction(async (inside) => {
      await requestJob(inside, shots[0], { kind: 'count' }, 'ada');
      await sleep(300);
      committed = true;
    });
    expect(await waiting).toEqual({ heard: true, committed: true });
    bell.close();
  });

  it('comes back for what another engine let go of, unless that has just been refused', async () => {
    const id = await count();
    await take('one');
    await runOut(id);
    const bell = new Bell(database);
    await bell.wait([], true);
    expect(await bell.wait([], true)).toBe(true);
    expect(await bell.wait([], false)).toBe(false);
    expect(await bell.wait([id], true)).toBe(false);
    bell.close();
  });
});

describe('the end of a job', () => {
  it('comes at once when it is stopped before it began', async () => {
    const id = await count();
    await cancelJob(database, id);
    expect(await findJob(database, id)).toMatchObject({ state: 'cancelled' });
    await cancelJob(database, id);
    expect(await take('one')).toBeNull();
  });

  it('comes when an engine was lost after the request to stop', async () => {
    const id = await count();
    await take('one');
    await cancelJob(database, id);
    await runOut(id);
    expect(await take('two')).toBeNull();
    expect(await findJob(database, id)).toMatchObject({ state: 'cancelled' });
  });

  it('is undone together with its work when that throws', async () => {
    const id = await count();
    await take('one');
    const work = finishJob(database, id, 'one', { state: 'done' }, async (inside) => {
      await inside.change("UPDATE shots SET note = 'changed' WHERE id = ?", [shots[0]]);
      throw new Error('no room');
    });
    await expect(work).rejects.toThrow('no room');
    expect(await findJob(database, id)).toMatchObject({ state: 'running' });
    expect(await database.rows("SELECT id FROM shots WHERE note = 'changed'")).toEqual([]);
  });

  it('shows beside what waits and runs of its kind and shot, with its progress', async () => {
    const first = await count();
    await take('one');
    await writeProgress(database, first, { phase: 'counting', done: 1, total: 4, bytesDone: 10, bytesTotal: 40 });
    await writeProgress(database, first, { phase: 'counting', done: 3, total: 4, bytesDone: 30, bytesTotal: 40 });
    expect(await listNewestJobs(database)).toMatchObject([{ id: first, state: 'running', progress: { phase: 'counting', done: 3, total: 4 } }]);
    await finishJob(database, first, 'one', { state: 'failed', error: { code: 'x', message: 'It broke.', remedy: 'Mend it.' } });
    const second = await count();
    const newest = await listNewestJobs(database);
    expect(newest.map((job) => job.id)).toEqual([first, second]);
    expect(newest.map((job) => job.state)).toEqual(['failed', 'queued']);
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
