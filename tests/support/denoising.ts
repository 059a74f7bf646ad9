import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { FrameSet, memorySource, parseBrief, parseFrameRange, recogniseFormat, type DenoiseRequest } from '@mint-tally/core';
import { createDenoise, createShot, ensureProject, requestJob, saveBrief, type Database } from '@mint-tally/store';
import { afterAll, beforeAll, expect } from 'vitest';
import { testConfig } from './config.ts';
import { settleJob } from './jobs.ts';
import { makeDatabase } from './database.ts';
import { litBrief, renderLit, writeLitShot } from './lit-shot.ts';
import { codecTools, InspectionPool, JobRunner, type Config } from '../../packages/engine/src/index.ts';

/** Of each shot. */
export const FRAMES = 20;
export let top = '';
export let lit = '';
export let database: Database;
export let config: Config;
let pool: InspectionPool;
let projectId: number;
/** Engines that were begun; all are stopped in the end. */
export const runners: JobRunner[] = [];
/** What engines say went wrong. */
export const reports: string[] = [];

export async function startRunner(): Promise<JobRunner> {
  const runner = new JobRunner({ database, config, pool, services: [] }, (line) => reports.push(line));
  runners.push(runner);
  await runner.start();
  return runner;
}

/** Renders a shot and begins an engine before the tests of a file, and ends it behind them. */
export function beginDenoising(): void {
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
    for (const runner of runners.splice(0)) await runner.stop();
    reports.length = 0;
    await pool.close();
    await database.close();
    rmSync(top, { recursive: true, force: true });
  });
}

export async function makeShot(name: string, root = 'shots'): Promise<{ id: number; folder: string }> {
  const folder = path.join(top, root, name);
  cpSync(lit, folder, { recursive: true });
  const id = await createShot(database, { projectId, name, note: '', root, folder: name }, 'ada');
  await database.transaction((inside) => saveBrief(inside, id, parseBrief(litBrief(FRAMES)), 'ada'));
  return { id, folder };
}

export const usual: DenoiseRequest = {
  purpose: 'range',
  pass: 'beauty',
  strengths: [1],
  frames: 3,
  range: `1001-${1000 + FRAMES}`,
  region: null,
  target: { name: 'beauty_denoised', pattern: 'beauty_denoised/beauty_denoised.####.exr' },
  lights: [],
  measuredAt: null,
};
export const testOf = (strengths: number[], range: string): DenoiseRequest => ({ ...usual, purpose: 'test', strengths, range, target: null });

/** Writes a run down in parts of so many frames, and asks for seats at it. */
export async function begin(shot: number, request: DenoiseRequest, { length = FRAMES, seats = 1 } = {}): Promise<{ run: number; jobs: number[] }> {
  const frames = [...parseFrameRange(request.range)];
  const pieces = Array.from({ length: Math.ceil(frames.length / length) }, (_, i) => FrameSet.of(frames.slice(i * length, (i + 1) * length)));
  const parts = request.strengths.flatMap((_, strength) => pieces.map((piece) => ({ strength, frames: piece })));
  const run = await database.transaction((inside) => createDenoise(inside, shot, request, parts, 'ada'));
  return { run, jobs: await sitDown(shot, run, seats, request.purpose) };
}

export async function sitDown(shot: number, run: number, seats = 1, purpose: DenoiseRequest['purpose'] = 'range'): Promise<number[]> {
  const jobs: number[] = [];
  for (let seat = 1; seat <= seats; seat++) jobs.push(await requestJob(database, shot, { kind: 'denoise', run, seat, purpose }, 'ada'));
  return jobs;
}

export const settle = (jobId: number) => settleJob(database, jobId);

export async function until(isSo: () => boolean): Promise<void> {
  // Asked once each time: a file that is just getting its name may be seen under neither.
  let was = isSo();
  for (let i = 0; i < 2000 && !was; i++) {
    await sleep(10);
    was = isSo();
  }
  expect(was).toBe(true);
}

export const filesIn = (folder: string) => (existsSync(folder) ? readdirSync(folder).sort() : []);
export const namesOf = (name: string, range: string) => [...parseFrameRange(range)].map((frame) => `${name}.${frame}.exr`);
export const resultOf = (folder: string) => path.join(folder, 'beauty_denoised');
export const bytesIn = (folder: string) => filesIn(folder).map((name) => readFileSync(path.join(folder, name)).toString('base64'));

export function decoded(file: string) {
  const source = memorySource(readFileSync(file));
  return recogniseFormat(source, file).open(source).decode(codecTools).frame;
}
