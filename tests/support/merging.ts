import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { parseBrief, SET_ASIDE, type MergeRule, type MergeStep, type MergeWay } from '@mint-tally/core';
import { InspectionPool, JobRunner, type Config } from '@mint-tally/engine';
import {
  createMerge,
  createShot,
  ensureProject,
  findJob,
  listMergeSteps,
  mergeRequestSchema,
  requestJob,
  saveBrief,
  type Database,
  type Job,
} from '@mint-tally/store';
import { afterAll, beforeAll, beforeEach } from 'vitest';
import { testConfig } from './config.ts';
import { makeDatabase } from './database.ts';
import { pngBytes } from './frames.ts';
import { endAll } from './ending.ts';

export let top: string;
export let database: Database;
export let config: Config;
export let pool: InspectionPool;
export let runner: JobRunner;
export let projectId: number;
export let shots = 0;
export let shot: { id: number; name: string; folder: string };

export const startRunner = async () => {
  runner = new JobRunner({ database, config, pool, services: [] }, () => undefined);
  await runner.start();
};

/** Begins a database and an engine before the tests of a file, makes a shot for each of them, and ends it all behind them. */
export function beginMerging(): void {
  beforeAll(async () => {
    top = realpathSync(mkdtempSync(path.join(os.tmpdir(), 'mint-merge-')));
    database = await makeDatabase();
    config = testConfig(top, [
      { name: 'shots', writable: true },
      { name: 'disks', writable: true },
    ]);
    projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
    pool = new InspectionPool(1);
    await startRunner();
  });
  afterAll(() => endAll({ runner, pool, database, top }));
  beforeEach(async () => {
    rmSync(path.join(top, 'disks'), { recursive: true, force: true });
    mkdirSync(path.join(top, 'disks'));
    const name = `shot${++shots}`;
    const folder = path.join(top, 'shots', name);
    mkdirSync(folder);
    const id = await createShot(database, { projectId, name, note: '', root: 'shots', folder: name }, 'ada');
    await database.transaction((inside) =>
      saveBrief(inside, id, parseBrief({ shot: name, range: '1001-1012', passes: [{ name: 'beauty', pattern: 'beauty/f.####.png' }] }), 'ada'),
    );
    shot = { id, name, folder };
  });
}

export const disk = (name: string) => path.join(top, 'disks', name);
/** Writes frames into a disk's folder; the seed tells their content. */
export function write(folder: string, frames: number[], seed = (frame: number) => frame, name = (frame: number) => `beauty/f.${frame}.png`): void {
  for (const frame of frames) {
    const file = path.join(folder, name(frame));
    mkdirSync(path.dirname(file), { recursive: true });
    writeFileSync(file, pngBytes(seed(frame)));
  }
}
export const range = (first: number, last: number) => Array.from({ length: last - first + 1 }, (_, i) => first + i);
export const merged = () => (existsSync(path.join(shot.folder, 'beauty')) ? readdirSync(path.join(shot.folder, 'beauty')).sort() : []);
export const names = (frames: number[]) => frames.map((frame) => `f.${frame}.png`);
export const isSeed = (frame: number, seed: number) => readFileSync(path.join(shot.folder, `beauty/f.${frame}.png`)).equals(Buffer.from(pngBytes(seed)));

export async function settle(id: number): Promise<Job> {
  for (let i = 0; i < 600; i++) {
    const job = await findJob(database, id);
    if (job && job.state !== 'queued' && job.state !== 'running') return job;
    await sleep(20);
  }
  throw new Error('the merge does not end');
}

export const act = async (merge: number, action: 'preview' | 'run' | 'undo') =>
  settle(await requestJob(database, shot.id, { kind: 'merge', merge, action }, 'ada'));

export async function preview(
  sources: string[],
  { rule = 'newer', way = 'copy', byHand = [] }: { rule?: MergeRule; way?: MergeWay; byHand?: object[] } = {},
): Promise<{ id: number; steps: MergeStep[]; job: Job }> {
  const id = await createMerge(
    database,
    shot.id,
    mergeRequestSchema.parse({ sources: sources.map((folder) => ({ root: 'disks', folder })), rule, way, byHand }),
    'ada',
  );
  const job = await act(id, 'preview');
  return { id, job, steps: await listMergeSteps(database, id) };
}

export const journalOf = () => path.join(shot.folder, SET_ASIDE, readdirSync(path.join(shot.folder, SET_ASIDE))[0], 'journal.jsonl');
/** Leaves so many lines of the journal, as a fall would, and adds others. */
export function cutJournal(lines: number, ...more: object[]): void {
  const left = readFileSync(journalOf(), 'utf8').split('\n').slice(0, lines);
  writeFileSync(journalOf(), [...left, ...more.map((line) => JSON.stringify(line)), ''].join('\n'));
}
