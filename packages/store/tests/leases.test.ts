import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { jobKinds } from '@mint-tally/core';
import { makeDatabase } from '../../../tests/support/database.ts';
import { makeShots, takeJob } from '../../../tests/support/jobs.ts';
import {
  cancelJob,
  findJob,
  finishJob,
  leaseJob,
  MOST_FALLS,
  notePresence,
  releaseFallenEngines,
  releaseJob,
  renewLease,
  requestJob,
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
const take = (engine: string, takes?: Partial<Takes>) => takeJob(database, engine, takes);
const runOut = (id: number) => database.change('UPDATE jobs SET lease_until = UTC_TIMESTAMP(3) - INTERVAL 1 SECOND WHERE id = ?', [id]);
const stateOf = async (id: number) => (await findJob(database, id))!.state;

describe('a lease', () => {
  it('gives each job to one engine, oldest first', async () => {
    const ids = [await count(shots[0]), await count(shots[1]), await count(shots[2])];
    const taken = await Promise.all(['one', 'two', 'three', 'four'].map((engine) => take(engine)));
    expect(taken.flatMap((job) => job?.id ?? []).sort()).toEqual(ids.sort());
    expect(await take('five')).toBeNull();
  });

  it('is renewed by its holder alone, and tells of a request to stop', async () => {
    const id = await count();
    await take('one');
    expect(await renewLease(database, id, 'one')).toBe('held');
    expect(await renewLease(database, id, 'two')).toBe('lost');
    await cancelJob(database, id);
    expect(await renewLease(database, id, 'one')).toBe('cancel');
  });

  it('passes to another engine when it runs out; the first can then write nothing', async () => {
    const id = await count();
    await take('one');
    await writeProgress(database, id, { phase: 'counting', done: 5, total: 10, bytesDone: 1, bytesTotal: 2 });
    await runOut(id);
    expect(await take('two')).toMatchObject({ id, progress: null });
    let wrote = false;
    expect(await finishJob(database, id, 'one', { state: 'done' }, async () => (wrote = true))).toBe(false);
    expect(wrote).toBe(false);
    expect(await renewLease(database, id, 'one')).toBe('lost');
    expect(await finishJob(database, id, 'two', { state: 'done' }, async () => (wrote = true))).toBe(true);
    expect(await stateOf(id)).toBe('done');
  });

  it('of a range that is denoised is asked to give way to what waits for its lane, and is taken behind it', async () => {
    const seat = (run: number, purpose: 'test' | 'range') => requestJob(database, shots[0]!, { kind: 'denoise', run, seat: 1, purpose }, 'ada');
    const lane = ['assay', 'denoise'] as const;
    const [range, other] = [await seat(1, 'range'), await seat(2, 'range')];
    expect(await take('one')).toMatchObject({ id: range });
    // Another range waits for its turn, and a count for nobody.
    await count();
    expect(await renewLease(database, range, 'one', lane)).toBe('held');
    const test = await seat(3, 'test');
    expect(await renewLease(database, range, 'one', lane)).toBe('yield');
    expect(await renewLease(database, range, 'one')).toBe('held');
    await cancelJob(database, test);
    expect(await renewLease(database, range, 'one', lane)).toBe('held');
    const [again, assay] = [await seat(3, 'test'), await requestJob(database, shots[1]!, { kind: 'assay' }, 'ada')];
    await releaseJob(database, range, 'one');
    const order: (number | undefined)[] = [];
    for (let i = 0; i < 4; i++) {
      const job = await take('one', { kinds: lane });
      order.push(job?.id);
      if (job) await finishJob(database, job.id, 'one', { state: 'done' });
    }
    expect(order).toEqual([again, assay, range, other]);
  });

  it('does not give way to what nobody may take yet', async () => {
    const seat = (run: number, purpose: 'test' | 'range') => requestJob(database, shots[0]!, { kind: 'denoise', run, seat: 1, purpose }, 'ada');
    const test = await seat(1, 'test');
    await take('one');
    const range = await seat(2, 'range');
    await take('two');
    // The same seat again waits for the one that is taken.
    expect(await seat(1, 'test')).not.toBe(test);
    expect(await renewLease(database, range, 'two', ['denoise'])).toBe('held');
    // Its engine fell silent: whoever is free has to take it.
    await runOut(test);
    expect(await renewLease(database, range, 'two', ['denoise'])).toBe('yield');
  });

  it('that ran out is not taken by the engine that still works on it', async () => {
    const id = await count();
    await take('one');
    await runOut(id);
    expect(await take('one', { held: [id] })).toBeNull();
    expect(await take('one')).toMatchObject({ id });
  });

  it('given back on purpose is not counted against the job, which goes before what waits behind it', async () => {
    const id = await count();
    const behind = await count(shots[1]);
    for (let i = 0; i < 5; i++) {
      expect(await take('one')).toMatchObject({ id, falls: 0 });
      await count();
      await releaseJob(database, id, 'one');
      expect(await stateOf(id)).toBe('queued');
    }
    expect(await stateOf(behind)).toBe('queued');
    await cancelJob(database, id);
    expect(await stateOf(id)).toBe('cancelled');
  });
});

describe('a job that engines fall with', () => {
  const fall = async (engine: string, left: number, phase = 'counting') => {
    const job = (await take(engine))!;
    if (left >= 0) await writeProgress(database, job.id, { phase, done: 100 - left, total: 100, bytesDone: 0, bytesTotal: 0 });
    await runOut(job.id);
    return job;
  };

  it('is tried again alone only', async () => {
    const [poison, innocent] = [await count(shots[0]), await count(shots[1])];
    for (const job of [await take('one'), await take('one')]) await runOut(job!.id);
    expect(await leaseJob(database, 'two', { kinds: jobKinds, held: [], alone: false })).toBe('suspect');
    expect(await take('two')).toMatchObject({ id: poison, falls: 1 });
    expect(await leaseJob(database, 'three', { kinds: jobKinds, held: [], alone: false })).toBe('suspect');
    expect(await take('three')).toMatchObject({ id: innocent, falls: 1 });
  });

  it('comes before what is not suspected, so that others do not wait for ever', async () => {
    await count(shots[0]);
    const poison = await count(shots[1]);
    await take('one', { held: [] });
    const job = (await take('one'))!;
    expect(job.id).toBe(poison);
    await runOut(poison);
    await take('two');
    await releaseJob(database, poison, 'two');
    await count(shots[2]);
    expect(await take('three')).toMatchObject({ id: poison });
  });

  it('counts up while it comes no further, in whatever little steps it is measured', async () => {
    await count();
    const falls = [];
    for (const left of [50, 50, 51, 50]) falls.push((await fall('one', left)).falls);
    expect(falls).toEqual([0, 1, 2, 3]);
    expect(MOST_FALLS).toBe(3);
  });

  it.each([
    ['less is left', [50, 40, 30, 20, 10], ['counting']],
    ['the next part has begun', [50, 90, 80, 10, 5], ['counting', 'copying']],
  ])('counts anew once %s', async (_, lefts, phases) => {
    await count();
    const falls = [];
    for (const [i, left] of lefts.entries()) falls.push((await fall('one', left, phases[Math.min(i, phases.length - 1)])).falls);
    expect(falls).toEqual([0, 1, 1, 1, 1]);
  });

  it('of an engine whose process is gone is freed at once, and counted', async () => {
    const id = await count();
    await notePresence(database, { id: 'gone', host: 'bowline', processId: 4711 });
    await take('gone');
    await releaseFallenEngines(database, 'bowline', () => false);
    expect(await take('two')).toMatchObject({ id, falls: 1 });
  });
});
