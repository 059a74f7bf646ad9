import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { FrameSet, parseBrief } from '@mint-tally/core';
import { createShot, ensureProject, findJob, loadFileFacts, newestTally, requestJob, saveBrief, type Database } from '@mint-tally/store';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { testConfig } from '../../../tests/support/config.ts';
import { settleJob } from '../../../tests/support/jobs.ts';
import { makeDatabase } from '../../../tests/support/database.ts';
import { pngBytes, writeSequence } from '../../../tests/support/frames.ts';
import { InspectionPool, JobRunner } from '../src/index.ts';

let top: string;
let database: Database;
let pool: InspectionPool;
let projectId: number;
let runner: JobRunner;
let reports: string[] = [];

beforeAll(async () => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-runner-'));
  database = await makeDatabase();
  projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  pool = new InspectionPool(2);
  runner = new JobRunner({ database, config: testConfig(top, [{ name: 'shots', writable: false }]), pool, services: [] }, (line) => reports.push(line));
  await runner.start();
});
afterEach(() => (reports = []));
afterAll(async () => {
  await runner.stop();
  await pool.close();
  await database.close();
  rmSync(top, { recursive: true, force: true });
});

const briefOf = (name: string, last: number) =>
  parseBrief({ shot: name, range: `1001-${last}`, resolution: [32, 18], passes: [{ name: 'beauty', pattern: 'beauty.####.png' }] });
const save = (shot: number, name: string, last: number) => database.transaction((inside) => saveBrief(inside, shot, briefOf(name, last), 'ada'));
const count = (shot: number) => requestJob(database, shot, { kind: 'count' }, 'ada');

async function makeShot(name: string, last = 1006): Promise<number> {
  writeSequence(path.join(top, 'shots', name), 1001, last);
  const id = await createShot(database, { projectId, name, note: '', root: 'shots', folder: name }, 'ada');
  await save(id, name, last);
  return id;
}

const settle = (jobId: number) => settleJob(database, jobId);

/** Asks for a count that takes a while, and waits until it has read its brief and is in the middle. */
async function countInTheMiddle(shot: number): Promise<number> {
  const id = await count(shot);
  for (let i = 0; i < 800 && (await loadFileFacts(database, shot)).size === 0; i++) await sleep(5);
  expect((await findJob(database, id))!.state).toBe('running');
  return id;
}

describe('a wish that comes while the same runs', () => {
  it('is not swallowed: a brief that is saved is counted', async () => {
    const shot = await makeShot('saved', 2200);
    const first = await countInTheMiddle(shot);
    const { version } = await save(shot, 'saved', 2190);
    const second = await count(shot);
    expect(second).not.toBe(first);
    await settle(first);
    await settle(second);
    expect(await newestTally(database, shot)).toMatchObject({ briefVersion: version, tally: { passes: [{ expected: 1190 }] } });
  });

  it('is not swallowed: a file that comes after it was listed is counted', async () => {
    const shot = await makeShot('late', 2200);
    await save(shot, 'late', 2201);
    const first = await countInTheMiddle(shot);
    writeFileSync(path.join(top, 'shots', 'late', 'beauty.2201.png'), pngBytes(99));
    const second = await count(shot);
    await settle(first);
    expect((await newestTally(database, shot))!.tally.passes[0].missing).toEqual(FrameSet.of([2201]));
    await settle(second);
    expect((await newestTally(database, shot))!.tally.passes[0].missing).toEqual(FrameSet.empty);
  });
});

describe('what fails unexpectedly', () => {
  const refuse = (table: string) =>
    database.script(`CREATE TRIGGER refuse BEFORE INSERT ON ${table} FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'no more ${table}';`);
  afterEach(() => database.script('DROP TRIGGER IF EXISTS refuse;'));

  it.each([
    ['when the result is written down', 'tallies'],
    ['in the middle of the work', 'file_facts'],
  ])('%s is a failed job that says why, and the engine goes on', async (_, table) => {
    const shot = await makeShot(`fails-${table}`);
    await refuse(table);
    expect(await settle(await count(shot))).toMatchObject({
      state: 'failed',
      error: { code: 'unexpected', message: `Something unexpected happened: no more ${table}` },
    });
    expect(reports.join('\n')).toContain(`no more ${table}`);
    await database.script('DROP TRIGGER refuse;');
    expect((await settle(await count(shot))).state).toBe('done');
  });

  it('is no reason to lose a job: a connection that is cut is a job that is done again', async () => {
    const shot = await makeShot('cut', 2400);
    const id = await countInTheMiddle(shot);
    for (let i = 0; i < 3; i++) {
      const threads = await database.rows('SELECT id FROM information_schema.processlist WHERE id <> CONNECTION_ID() AND db = DATABASE()');
      for (const thread of threads) await database.rows(`KILL ${thread.id}`).catch(() => undefined);
      await sleep(50);
    }
    expect(await settle(id)).toMatchObject({ state: 'done', error: null });
  });
});

describe('a lease that another engine has', () => {
  it('ends the work here at once, which writes nothing', async () => {
    const shot = await makeShot('taken', 5000);
    const id = await countInTheMiddle(shot);
    await database.change("UPDATE jobs SET lease_owner = 'another', lease_until = UTC_TIMESTAMP(3) + INTERVAL 1 HOUR WHERE id = ?", [id]);
    const known = async () => (await loadFileFacts(database, shot)).size;
    let before = -1;
    for (let i = 0; i < 40 && before !== (await known()); i++) {
      before = await known();
      await sleep(500);
    }
    expect(before).toBeLessThan(4000);
    expect(await newestTally(database, shot)).toBeNull();
    expect(await findJob(database, id)).toMatchObject({ state: 'running' });
    await database.change('UPDATE jobs SET lease_until = UTC_TIMESTAMP(3) WHERE id = ?', [id]);
    expect((await settle(id)).state).toBe('done');
  });
});

describe('an engine with nothing to do', () => {
  it('hears of a job before it would ask by itself, which it does once a second', async () => {
    const shot = await makeShot('quick', 1001);
    const waits: number[] = [];
    for (let i = 0; i < 12; i++) {
      await sleep(i * 60);
      const asked = performance.now();
      const id = await count(shot);
      while ((await database.rows('SELECT started_at FROM jobs WHERE id = ?', [id]))[0].started_at === null) await sleep(4);
      waits.push(performance.now() - asked);
      await settle(id);
    }
    // The middle one: a busy machine may be late once, or a little always.
    expect(waits.sort((a, b) => a - b)[6]).toBeLessThan(400);
  });

  it('asks the database once a second', async () => {
    let asked = 0;
    const counting: Database = {
      ...database,
      rows: (...given) => (asked++, database.rows(...given)),
      change: (...given) => (asked++, database.change(...given)),
      transaction: (work) => (asked++, database.transaction(work)),
      dedicated: async () => {
        const own = await database.dedicated();
        return { ...own, rows: (...given) => (asked++, own.rows(...given)) };
      },
    };
    const idle = new JobRunner({ database: counting, config: testConfig(top, []), pool, services: [] }, (line) => reports.push(line));
    await idle.start();
    await sleep(1500);
    asked = 0;
    const from = performance.now();
    await sleep(6000);
    // One a second that waits for the bell, and one or two that say that the engine is there. A machine that stalls sleeps longer.
    const seconds = (performance.now() - from) / 1000;
    expect(asked).toBeGreaterThan(2);
    expect(asked).toBeLessThanOrEqual(seconds + 3);
    await idle.stop();
  });
});
