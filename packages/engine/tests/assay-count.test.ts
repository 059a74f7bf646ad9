import { cpSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseBrief } from '@mint-tally/core';
import {
  cancelJob,
  createShot,
  ensureProject,
  findJob,
  finishJob,
  loadFileFacts,
  newestAssay,
  newestCount,
  newestTally,
  releaseJob,
  requestJob,
  saveBrief,
  type Database,
} from '@mint-tally/store';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { testConfig } from '../../../tests/support/config.ts';
import { makeDatabase } from '../../../tests/support/database.ts';
import { startEngine } from '../../../tests/support/engine.ts';
import { settleJob } from '../../../tests/support/jobs.ts';
import { litBrief, renderLit, writeLitShot } from '../../../tests/support/lit-shot.ts';
import { runAssay } from '../src/assaying/command.ts';
import { runCheck } from '../src/check/command.ts';
import { assayLooking } from '../src/check/with-assay.ts';
import { assayFolder, countFolder, InspectionPool, type Config, type KnownFile } from '../src/index.ts';

const FRAMES = 5;
let top = '';
let lit = '';
let brief = '';

beforeAll(() => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-assay-count-'));
  lit = path.join(top, 'lit');
  mkdirSync(lit);
  writeLitShot(
    lit,
    Array.from({ length: FRAMES }, (_, i) => renderLit(i, 4, 10 + i)),
  );
  brief = path.join(top, 'brief.json');
  writeFileSync(brief, JSON.stringify(litBrief(FRAMES)));
});
afterAll(() => rmSync(top, { recursive: true, force: true }));

describe('a count and an assay that are asked for together', () => {
  const measure = async (folder: string, known: Map<string, KnownFile>) =>
    (await assayFolder({
      folder,
      brief: parseBrief(litBrief(FRAMES)),
      now: Date.now(),
      looks: { known, proxyFolder: null, onInspected: (file) => void known.set(file.path, file) },
    }))!;

  it('say what each says alone', async () => {
    const [check, assay, both] = await Promise.all([
      runCheck([lit, '--brief', brief, '--json']),
      runAssay([lit, '--brief', brief, '--json'], () => undefined),
      runCheck([lit, '--brief', brief, '--assay', '--json'], assayLooking),
    ]);
    expect(JSON.parse(both.output)).toEqual({ ...(JSON.parse(check.output) as object), assay: JSON.parse(assay.output) as object });
    expect(both.status).toBe(0);
    expect((await runCheck([lit, '--brief', brief, '--assay'], assayLooking)).output).toMatch(/5 of 5 sound[^]*in time[^]*1005/);
  });

  it('find the same as an assay alone, sizes of files and all', async () => {
    const alone = (await assayFolder({ folder: lit, brief: parseBrief(litBrief(FRAMES)), now: Date.now() }))!;
    const { frames, findings } = await measure(lit, new Map());
    expect(frames).toEqual(alone.frames);
    expect(frames.every(({ bytes }) => bytes! > 1000)).toBe(true);
    expect(findings).toEqual(alone.findings);
  });

  it('open every file once', async () => {
    const known = new Map<string, KnownFile>();
    await measure(lit, known);
    const count = { folder: lit, brief: parseBrief(litBrief(FRAMES)), level: 'full', proxyFolder: null, now: Date.now() } as const;
    const pool = new InspectionPool(1);
    try {
      const found = new Map<string, KnownFile>();
      await countFolder({ ...count, pool, onInspected: (file) => void found.set(file.path, file) });
      expect(known).toEqual(found);
      const again = await countFolder({ ...count, pool, known: async () => known });
      expect(again.opened).toBe(0);
      expect(again.tally.ready).toBe(true);
    } finally {
      await pool.close();
    }
  });

  it('know whether frames changed while they were measured', async () => {
    const folder = path.join(top, 'changing');
    cpSync(lit, folder, { recursive: true });
    const assay = await measure(folder, new Map());
    expect(assay.hasChanged!()).toBe(false);
    const [pass] = readdirSync(folder);
    const file = path.join(folder, pass!, readdirSync(path.join(folder, pass!))[0]!);
    writeFileSync(file, 'another file');
    expect(assay.hasChanged!()).toBe(true);
  });

  it.each([
    [['--assay'], 'a brief is needed'],
    [['--assay', '--brief', 'x.json', '--level', 'headers'], 'level full'],
  ])('refuse %j', async (words, why) => {
    const { status, error } = await runCheck([lit, ...words]);
    expect([status, error]).toEqual([2, expect.stringContaining(why) as string]);
  });
});

describe('the job that measures a shot', () => {
  let database: Database;
  let config: Config;
  let engine: Awaited<ReturnType<typeof startEngine>>;
  beforeAll(async () => {
    database = await makeDatabase();
    config = testConfig(top, [{ name: 'shots', writable: true }]);
    engine = await startEngine(database, config, 2);
  });
  afterAll(async () => {
    await engine.stop();
    await database.close();
  });

  it('counts it along the way, so that both are of the same frames', async () => {
    cpSync(lit, path.join(top, 'shots', 'orr_010'), { recursive: true });
    const { id: projectId } = await ensureProject(database, 'Saltglass', 'ada');
    const shot = await createShot(database, { projectId, name: 'orr_010', note: '', root: 'shots', folder: 'orr_010' }, 'ada');
    await database.transaction((inside) => saveBrief(inside, shot, parseBrief(litBrief(FRAMES)), 'ada'));
    const job = await settleJob(database, await requestJob(database, shot, { kind: 'assay' }, 'ada'));
    expect(job.state).toBe('done');
    const [tally, count, assay] = [await newestTally(database, shot), await newestCount(database, shot), await newestAssay(database, shot)];
    expect(tally!.tally.ready).toBe(true);
    // The assay had looked into all of them.
    expect(tally!.opened).toBe(0);
    expect(assay!.content).toBe(count!.content);
    // Each has its small picture.
    expect(readdirSync(path.join(config.dataFolder, 'proxies'), { recursive: true }).filter((name) => String(name).endsWith('.webp')).length).toBeGreaterThan(
      0,
    );
  });

  describe('while it runs', () => {
    const ANOTHER = 'another engine';
    const PATIENT = { timeout: 90_000 };
    /** A shot that is being measured, by an engine that takes its time. */
    const measured = async (name: string) => {
      const folder = path.join(top, 'shots', name);
      cpSync(lit, folder, { recursive: true });
      const { id: projectId } = await ensureProject(database, 'Saltglass', 'ada');
      const shot = await createShot(database, { projectId, name, note: '', root: 'shots', folder: name }, 'ada');
      await database.transaction((inside) => saveBrief(inside, shot, parseBrief(litBrief(FRAMES)), 'ada'));
      // Nobody hears of it before it is taken.
      const assay = await database.transaction(async (inside) => {
        const id = await requestJob(inside, shot, { kind: 'assay' }, 'ada');
        await inside.change("UPDATE jobs SET state = 'running', lease_owner = ?, lease_until = '2100-01-01', started_at = UTC_TIMESTAMP(3) WHERE id = ?", [
          ANOTHER,
          id,
        ]);
        return id;
      });
      const count = await requestJob(database, shot, { kind: 'count' }, 'ada');
      await expect.poll(async () => (await findJob(database, count))!.progress?.phase, PATIENT).toBe('left to the assay');
      return { folder, shot, assay, count };
    };

    it('a count leaves to it what it has yet to read, and ends when it does', async () => {
      const { shot, assay, count } = await measured('left');
      expect((await loadFileFacts(database, shot)).size).toBe(0);
      expect((await findJob(database, count))!.state).toBe('running');
      expect(await finishJob(database, assay, ANOTHER, { state: 'cancelled' })).toBe(true);
      expect((await settleJob(database, count)).state).toBe('done');
      expect((await newestTally(database, shot))!.tally.ready).toBe(true);
    });

    it('a count can be stopped, and looks into what came since', async () => {
      const { folder, shot, assay, count } = await measured('stopped');
      await cancelJob(database, count);
      expect((await settleJob(database, count)).state).toBe('cancelled');
      const late = path.join(folder, 'depth', 'depth.1003.exr');
      writeFileSync(late, readFileSync(late));
      utimesSync(late, Date.now() / 1000 + 5, Date.now() / 1000 + 5);
      const again = await requestJob(database, shot, { kind: 'count' }, 'ada');
      await expect.poll(async () => [...(await loadFileFacts(database, shot)).keys()], PATIENT).toEqual(['depth/depth.1003.exr']);
      expect((await findJob(database, again))!.state).toBe('running');
      await releaseJob(database, assay, ANOTHER);
      expect((await settleJob(database, again)).state).toBe('done');
      expect((await settleJob(database, assay)).state).toBe('done');
    });

    it('a count of what is known ends at once', async () => {
      const { shot, assay, count } = await measured('known');
      await finishJob(database, assay, ANOTHER, { state: 'cancelled' });
      await settleJob(database, count);
      const second = await requestJob(database, shot, { kind: 'assay' }, 'ada');
      const recount = await requestJob(database, shot, { kind: 'count' }, 'ada');
      expect((await settleJob(database, recount)).state).toBe('done');
      expect((await settleJob(database, second)).state).toBe('done');
    });
  });
});
