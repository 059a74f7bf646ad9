import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { FrameSet, memorySource, parseBrief, parseFrameRange, recogniseFormat, type DenoiseRequest } from '@mint-tally/core';
import { encodePasses } from '@mint-tally/standin-farm';
import {
  cancelJob,
  createDenoise,
  createShot,
  endDenoise,
  ensureProject,
  findDenoise,
  findJob,
  newestBrief,
  newestTally,
  requestJob,
  saveBrief,
  type Database,
} from '@mint-tally/store';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { testConfig } from '../../../tests/support/config.ts';
import { settleJob } from '../../../tests/support/jobs.ts';
import { makeDatabase } from '../../../tests/support/database.ts';
import { litBrief, renderLit, writeLitShot } from '../../../tests/support/lit-shot.ts';
import { findReferences, keepReference } from '../src/denoising/references.ts';
import { codecTools, Housekeeper, InspectionPool, JobRunner, testPlace, type Config } from '../src/index.ts';

const FRAMES = 20;
let top = '';
let lit = '';
let database: Database;
let config: Config;
let pool: InspectionPool;
let projectId: number;
const runners: JobRunner[] = [];
const reports: string[] = [];

async function startRunner(): Promise<JobRunner> {
  const runner = new JobRunner({ database, config, pool, services: [] }, (line) => reports.push(line));
  runners.push(runner);
  await runner.start();
  return runner;
}

beforeAll(async () => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-denoise-jobs-'));
  lit = path.join(top, 'lit');
  mkdirSync(lit);
  writeLitShot(
    lit,
    Array.from({ length: FRAMES }, (_, i) => renderLit(i, 4, 10 + i)),
  );
  database = await makeDatabase();
  projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  config = testConfig(top, [
    { name: 'shots', writable: true },
    { name: 'locked', writable: false },
  ]);
  pool = new InspectionPool(2);
  await startRunner();
});
afterAll(async () => {
  for (const runner of runners) await runner.stop();
  await pool.close();
  await database.close();
  rmSync(top, { recursive: true, force: true });
});

async function makeShot(name: string, root = 'shots'): Promise<{ id: number; folder: string }> {
  const folder = path.join(top, root, name);
  cpSync(lit, folder, { recursive: true });
  const id = await createShot(database, { projectId, name, note: '', root, folder: name }, 'ada');
  await database.transaction((inside) => saveBrief(inside, id, parseBrief(litBrief(FRAMES)), 'ada'));
  return { id, folder };
}

const usual: DenoiseRequest = {
  purpose: 'range',
  pass: 'beauty',
  strengths: [1],
  frames: 3,
  range: `1001-${1000 + FRAMES}`,
  region: null,
  target: { name: 'beauty_denoised', pattern: 'beauty_denoised/beauty_denoised.####.exr' },
  measuredAt: null,
};
const testOf = (strengths: number[], range: string): DenoiseRequest => ({ ...usual, purpose: 'test', strengths, range, target: null });

/** Writes a run down in parts of so many frames, and asks for seats at it. */
async function begin(shot: number, request: DenoiseRequest, { length = FRAMES, seats = 1 } = {}): Promise<{ run: number; jobs: number[] }> {
  const frames = [...parseFrameRange(request.range)];
  const pieces = Array.from({ length: Math.ceil(frames.length / length) }, (_, i) => FrameSet.of(frames.slice(i * length, (i + 1) * length)));
  const parts = request.strengths.flatMap((_, strength) => pieces.map((piece) => ({ strength, frames: piece })));
  const run = await database.transaction((inside) => createDenoise(inside, shot, request, parts, 'ada'));
  return { run, jobs: await sitDown(shot, run, seats) };
}

async function sitDown(shot: number, run: number, seats = 1): Promise<number[]> {
  const jobs: number[] = [];
  for (let seat = 1; seat <= seats; seat++) jobs.push(await requestJob(database, shot, { kind: 'denoise', run, seat }, 'ada'));
  return jobs;
}

const settle = (jobId: number) => settleJob(database, jobId);

async function until(isSo: () => boolean): Promise<void> {
  for (let i = 0; i < 2000 && !isSo(); i++) await sleep(10);
  expect(isSo()).toBe(true);
}

const filesIn = (folder: string) => (existsSync(folder) ? readdirSync(folder).sort() : []);
const namesOf = (name: string, range: string) => [...parseFrameRange(range)].map((frame) => `${name}.${frame}.exr`);
const resultOf = (folder: string) => path.join(folder, 'beauty_denoised');
const bytesIn = (folder: string) => filesIn(folder).map((name) => readFileSync(path.join(folder, name)).toString('base64'));

function decoded(file: string) {
  const source = memorySource(readFileSync(file));
  return recogniseFormat(source, file).open(source).decode(codecTools).frame;
}

/** What an undisturbed run of the same settings writes. */
let whole: string[] = [];

describe('a range', () => {
  it('becomes a pass of the brief, which is counted', async () => {
    const { id, folder } = await makeShot('range');
    const { run, jobs } = await begin(id, usual);
    expect(await settle(jobs[0]!)).toMatchObject({ state: 'done', error: null });
    expect(await findDenoise(database, run)).toMatchObject({
      outcome: 'done',
      parts: [{ figures: { written: FRAMES, missing: '', unreadable: '', lacking: [], detail: null } }],
    });
    expect(filesIn(resultOf(folder))).toEqual(namesOf('beauty_denoised', usual.range));
    whole = bytesIn(resultOf(folder));
    const saved = (await newestBrief(database, id))!;
    expect(saved.version).toBe(2);
    expect(saved.brief.passes.at(-1)).toEqual({
      name: 'beauty_denoised',
      role: 'beauty',
      pattern: 'beauty_denoised/beauty_denoised.####.exr',
      denoisedFrom: 'beauty',
    });
    for (let i = 0; i < 500 && (await newestTally(database, id))?.briefVersion !== 2; i++) await sleep(20);
    const tally = (await newestTally(database, id))!.tally;
    expect(tally.passes.at(-1)).toMatchObject({ name: 'beauty_denoised', expected: FRAMES, sound: FRAMES });
  });

  /** A range that was paused after so many frames. Small frames may all be written before the pause is heard of: then another is begun. */
  async function pauseInTime(name: string, frames: number, goOn: (id: number, run: number) => Promise<number[]> = async () => []) {
    for (let attempt = 1; attempt <= 8; attempt++) {
      const { id, folder } = await makeShot(`${name}-${attempt}`);
      const { run, jobs } = await begin(id, usual);
      await until(() => filesIn(resultOf(folder)).length >= frames);
      await cancelJob(database, jobs[0]!);
      const again = await goOn(id, run);
      const { state } = await settle(jobs[0]!);
      if (state === 'cancelled') return { id, folder, run, again };
      expect(state).toBe('done');
    }
    throw new Error('No pause came in time.');
  }

  it('goes on behind the last good frame after a pause, and comes out the same to the bit', async () => {
    const { id, folder, run } = await pauseInTime('paused', 2);
    const there = filesIn(resultOf(folder));
    expect(there.length).toBeGreaterThanOrEqual(2);
    expect(there.length).toBeLessThan(FRAMES);
    // Nothing half written is left, and the brief orders nothing yet.
    expect(there).toEqual(namesOf('beauty_denoised', usual.range).slice(0, there.length));
    expect((await findDenoise(database, run))!.outcome).toBeNull();
    expect((await newestBrief(database, id))!.version).toBe(1);
    const again = await sitDown(id, run);
    expect((await settle(again[0]!)).state).toBe('done');
    expect(bytesIn(resultOf(folder))).toEqual(whole);
  });

  it('goes on when somebody pauses it and changes their mind at once', async () => {
    const { folder, run, again } = await pauseInTime('at-once', 1, sitDown);
    expect((await settle(again[0]!)).state).toBe('done');
    expect((await findDenoise(database, run))!.outcome).toBe('done');
    expect(bytesIn(resultOf(folder))).toEqual(whole);
  });

  it('goes on when its engine is stopped in the middle, and another comes', async () => {
    const { id, folder } = await makeShot('engine');
    const { run, jobs } = await begin(id, usual);
    await until(() => filesIn(resultOf(folder)).length >= 2);
    await runners.pop()!.stop();
    expect(filesIn(resultOf(folder)).length).toBeLessThan(FRAMES);
    expect((await findJob(database, jobs[0]!))!.state).toBe('queued');
    await startRunner();
    expect((await settle(jobs[0]!)).state).toBe('done');
    expect((await findDenoise(database, run))!.outcome).toBe('done');
    expect(bytesIn(resultOf(folder))).toEqual(whole);
  });

  it('is shared by engines: each part is done by one, and the last one orders the result', async () => {
    const { id, folder } = await makeShot('shared');
    const second = await startRunner();
    const { run, jobs } = await begin(id, usual, { length: 3, seats: 3 });
    expect((await Promise.all(jobs.map(settle))).map(({ state }) => state)).toEqual(['done', 'done', 'done']);
    const takers = await database.rows('SELECT job_id, COUNT(*) AS parts FROM denoise_parts WHERE run_id = ? GROUP BY job_id ORDER BY job_id', [run]);
    expect(takers.length).toBeGreaterThan(1);
    expect(takers.reduce((sum, { parts }) => sum + Number(parts), 0)).toBe(7);
    expect(filesIn(resultOf(folder))).toEqual(namesOf('beauty_denoised', usual.range));
    expect((await newestBrief(database, id))!.version).toBe(2);
    runners.splice(runners.indexOf(second), 1);
    await second.stop();
  });

  it('that is a part is ordered as a part, and what is added to it is ordered too', async () => {
    const { id } = await makeShot('pieces');
    const orderedOf = async () => (await newestBrief(database, id))!.brief.passes.find(({ name }) => name === 'beauty_denoised')!.range;
    await settle((await begin(id, { ...usual, range: '1001-1002' })).jobs[0]!);
    expect(await orderedOf()).toBe('1001-1002');
    await settle((await begin(id, { ...usual, range: '1003,1005' })).jobs[0]!);
    expect(await orderedOf()).toBe('1001-1003,1005');
  });

  it('tells frames that are not there, also where a whole part lacks, and denoises the others', async () => {
    const { id, folder } = await makeShot('gaps');
    for (const frame of [1002, 1005, 1006, 1007, 1008]) rmSync(path.join(folder, 'beauty', `beauty.${frame}.exr`));
    const { run, jobs } = await begin(id, { ...usual, range: '1001-1012' }, { length: 4 });
    expect(await settle(jobs[0]!)).toMatchObject({ state: 'done', error: null });
    const { outcome, parts } = (await findDenoise(database, run))!;
    expect([outcome, parts.map(({ figures }) => [figures!.written, figures!.missing])]).toEqual([
      'done',
      [
        [3, '1002'],
        [0, '1005-1008'],
        [4, ''],
      ],
    ]);
    expect((await newestBrief(database, id))!.brief.passes.at(-1)).toMatchObject({ name: 'beauty_denoised', range: '1001-1012' });
  });

  it('of which no frame is there orders nothing', async () => {
    const { id, folder } = await makeShot('nothing');
    rmSync(path.join(folder, 'beauty'), { recursive: true });
    expect((await settle((await begin(id, usual)).jobs[0]!)).state).toBe('done');
    expect((await newestBrief(database, id))!.version).toBe(1);
  });

  it('that was stopped for good is not gone on with, and orders nothing', async () => {
    const { id, folder } = await makeShot('stopped');
    const { run, jobs } = await begin(id, usual, { length: 3 });
    await until(() => filesIn(resultOf(folder)).length >= 1);
    await endDenoise(database, run, 'stopped');
    expect((await settle(jobs[0]!)).state).toBe('done');
    expect(filesIn(resultOf(folder)).length).toBeLessThan(FRAMES);
    expect((await findDenoise(database, run))!.outcome).toBe('stopped');
    expect((await newestBrief(database, id))!.version).toBe(1);
  });

  it('is refused where nothing may be written, and where other files are in the way, which stay', async () => {
    const locked = await makeShot('locked', 'locked');
    expect(await settle((await begin(locked.id, usual)).jobs[0]!)).toMatchObject({ state: 'failed', error: { code: 'not-writable' } });
    const { id, folder } = await makeShot('occupied');
    mkdirSync(resultOf(folder));
    writeFileSync(path.join(resultOf(folder), 'beauty_denoised.1004.exr'), 'somebody’s');
    expect(await settle((await begin(id, usual)).jobs[0]!)).toMatchObject({
      state: 'failed',
      error: { code: 'file-in-the-way', message: expect.stringContaining('for the frames 1004') as string },
    });
    expect(readFileSync(path.join(resultOf(folder), 'beauty_denoised.1004.exr'), 'utf8')).toBe('somebody’s');
    expect(filesIn(resultOf(folder))).toHaveLength(1);
    expect(reports).toEqual([]);
  });
});

describe('a test', () => {
  it('tries each strength beside the shot, with figures and the ghosts that it kept out', async () => {
    const { id, folder } = await makeShot('test');
    const before = filesIn(folder);
    const { run, jobs } = await begin(id, testOf([0.5, 2], '1003-1005'));
    await settle(jobs[0]!);
    const { outcome, parts } = (await findDenoise(database, run))!;
    expect([outcome, parts.length]).toEqual(['done', 2]);
    const [light, strong] = parts.map(({ figures }) => figures!);
    expect(light!.noise!).toBeLessThan(light!.noiseBefore! / 2);
    expect(strong!.noise!).toBeLessThan(light!.noise!);
    for (const { detail, temporalNoise, temporalBefore } of [light!, strong!]) {
      expect(detail!).toBeGreaterThan(0.3);
      expect(detail!).toBeLessThan(1.1);
      expect(temporalNoise!).toBeLessThan(temporalBefore! / 2);
    }
    expect(strong!.detail!).toBeLessThan(light!.detail! + 0.02);
    // The shot's own folder is as it was.
    expect(filesIn(folder)).toEqual(before);
    const place = testPlace(run, 2);
    expect(filesIn(path.join(config.dataFolder, place.pictures))).toEqual(namesOf('beauty', '1003-1005'));
    const [ghosts] = decoded(path.join(config.dataFolder, place.ghosts, 'beauty.1004.exr')).planes;
    expect([ghosts!.channel, ghosts!.width, ghosts!.height]).toEqual(['Y', 112, 64]);
    const shares = Float32Array.from(ghosts!.data);
    expect(Math.min(...shares)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...shares)).toBeLessThanOrEqual(1);
    expect(shares.some((share) => share > 0.5)).toBe(true);
  });

  it('of a part of the picture writes that part, in its place, nearly as the whole has it', async () => {
    const { id } = await makeShot('part');
    const whole = await begin(id, testOf([1], '1004'));
    const part = await begin(id, { ...testOf([1], '1004'), region: [40, 20, 30, 10] });
    await settle(whole.jobs[0]!);
    await settle(part.jobs[0]!);
    const of = (run: number) => decoded(path.join(config.dataFolder, testPlace(run, 1).pictures, 'beauty.1004.exr'));
    const [large, small] = [of(whole.run), of(part.run)];
    expect(small.header.dataWindow).toEqual([32, 16, 79, 31]);
    expect(small.header.displayWindow).toEqual([0, 0, 111, 63]);
    const red = (frame: typeof large) => frame.planes.find(({ channel }) => channel === 'R')!;
    const half = (await import('@mint-tally/core')).halfToFloat;
    let [differs, all] = [0, 0];
    for (let y = 0; y < 16; y++) {
      for (let x = 0; x < 48; x++) {
        const inSmall = half(red(small).data[red(small).offset + (y * 48 + x) * red(small).stride]!);
        const inLarge = half(red(large).data[red(large).offset + ((y + 16) * 112 + x + 32) * red(large).stride]!);
        differs += Math.abs(inSmall - inLarge);
        all += inLarge;
      }
    }
    expect(differs / all).toBeLessThan(0.02);
  });

  it('holds detail against a render with more samples, where one was made for the brief’s sums', async () => {
    const { id } = await makeShot('referred');
    const made = path.join(top, 'made');
    writeLitShot(made, [renderLit(3, 64, 77)]);
    const keep = (frame: number, samples: number) => {
      cpSync(path.join(made, 'beauty', 'beauty.1001.exr'), path.join(top, 'best.exr'));
      keepReference(config, id, frame, samples, path.join(top, 'best.exr'));
    };
    keep(1004, 32);
    keep(1004, 64);
    keep(1004, 16);
    expect([...findReferences(config, id).values()].map((file) => path.basename(file))).toEqual(['1004-64.exr']);
    const figuresFor = async (range: string) => {
      const { run, jobs } = await begin(id, testOf([1], range));
      await settle(jobs[0]!);
      return (await findDenoise(database, run))!.parts[0]!.figures!;
    };
    const [own, referred] = [await figuresFor('1006'), await figuresFor('1003-1005')];
    // The file says 16 samples, as the shot's own do: no better render.
    expect([own.isReferred, referred.isReferred]).toEqual([false, false]);
    // Sixteen times its samples, as 64 are of the 4 that it was rendered with.
    writeFileSync(
      path.join(config.dataFolder, 'references', String(id), '1004-64.exr'),
      encodePasses(renderLit(3, 64, 77), [{ pass: 'beauty', path: '', format: 'exr', compression: 'zip', type: 'half' }], {
        host: 'reef',
        samples: 256,
        frame: 1004,
      }),
    );
    const better = await figuresFor('1003-1005');
    expect(better.isReferred).toBe(true);
    expect(better.detail!).toBeGreaterThan(0.5);
    expect(better.detail!).toBeLessThan(1.1);
    writeFileSync(path.join(config.dataFolder, 'references', String(id), '1004-64.exr'), 'no picture');
    expect((await figuresFor('1003-1005')).isReferred).toBe(false);
  });

  it('is cleared away when newer ones of the shot are there, and the newest are kept', async () => {
    const { id } = await makeShot('cleared');
    const runs: number[] = [];
    for (let i = 0; i < 4; i++) {
      const { run, jobs } = await begin(id, { ...testOf([1], '1001'), frames: 1 });
      await settle(jobs[0]!);
      runs.push(run);
    }
    await new Housekeeper(database, config, (line) => reports.push(line)).keep(Date.now());
    const kept = filesIn(path.join(config.dataFolder, 'denoise-tests')).map(Number);
    expect(runs.map((run) => kept.includes(run))).toEqual([false, true, true, true]);
  });
});
