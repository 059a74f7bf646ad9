import { createHash } from 'node:crypto';
import { cpSync, mkdtempSync, readdirSync, readFileSync, realpathSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { mendWishSchema, parseBrief, SET_ASIDE, type MendWish } from '@mint-tally/core';
import {
  createShot,
  ensureProject,
  listMends,
  newestTally,
  readMendPreview,
  requestJob,
  saveBrief,
  type Database,
  type Job,
  type MendPreview,
} from '@mint-tally/store';
import { afterAll, beforeAll, beforeEach, expect } from 'vitest';
import { testConfig } from './config.ts';
import { makeDatabase } from './database.ts';
import { settleJob } from './jobs.ts';
import { litBrief, renderLit, writeLitShot } from './lit-shot.ts';
import { InspectionPool, JobRunner, planMend, soundFrames, type Config } from '../../packages/engine/src/index.ts';
import { endAll } from './ending.ts';

export const FRAMES = 8;
export const PASSES = ['beauty', 'depth'] as const;
const brief = litBrief(FRAMES, PASSES);
export const order = parseBrief({
  ...brief,
  passes: brief.passes.map((pass) => (pass.name === 'depth' ? { ...pass, channels: ['Z'] } : { ...pass, channels: ['R', 'G', 'B', 'A'] })),
});

export let top = '';
let database: Database;
let config: Config;
let pool: InspectionPool;
let runner: JobRunner;
let projectId: number;
let shots = 0;

/** Renders a shot and begins an engine before the tests of a file, copies the shot for each of them, and ends it all behind them. */
export function beginMending(): void {
  beforeAll(async () => {
    top = realpathSync(mkdtempSync(path.join(os.tmpdir(), 'mint-operations-')));
    database = await makeDatabase();
    projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
    config = testConfig(top, [
      { name: 'shots', writable: true },
      { name: 'again', writable: false },
    ]);
    const frames = Array.from({ length: FRAMES }, (_, i) => renderLit(i, 8, 3));
    writeLitShot(path.join(top, 'shots/plain'), frames, PASSES);
    // The same frames, rendered with other samples and another seed.
    writeLitShot(
      path.join(top, 'again/better'),
      Array.from({ length: FRAMES }, (_, i) => renderLit(i, 8, 71)),
      PASSES,
    );
    pool = new InspectionPool(1);
    runner = new JobRunner({ database, config, pool, services: [] }, () => undefined);
    await runner.start();
  }, 120_000);
  afterAll(() => endAll({ runner, pool, database, top }));
  beforeEach(async () => {
    const name = `shot${++shots}`;
    folder = path.join(top, 'shots', name);
    cpSync(path.join(top, 'shots/plain'), folder, { recursive: true });
    id = await createShot(database, { projectId, name, note: '', root: 'shots', folder: name }, 'ada');
    await database.transaction((inside) => saveBrief(inside, id, order, 'ada'));
  });
}

let id: number;
export let folder: string;
/** Every file below the shot's folder but those of the set-aside, with its checksum. */
export const tree = () =>
  Object.fromEntries(
    readdirSync(folder, { recursive: true, encoding: 'utf8', withFileTypes: true })
      .filter((entry) => entry.isFile() && !entry.parentPath.includes(SET_ASIDE))
      .map((entry) => path.join(entry.parentPath, entry.name))
      .sort()
      .map((file) => [path.relative(folder, file), createHash('sha256').update(readFileSync(file)).digest('hex')]),
  );
export const file = (name: string) => path.join(folder, name);

type Action = 'preview' | 'apply' | 'undo' | 'let-go';
export const act = async (action: Action, wish: MendWish | null, seen = ''): Promise<Job> =>
  settleJob(database, await requestJob(database, id, { kind: 'mend', action, wish, seen, until: null }, 'ada'));
export const count = async () => {
  await settleJob(database, await requestJob(database, id, { kind: 'count' }, 'ada'));
  return (await newestTally(database, id))!.tally;
};

/** Previews a mend in the way of its kind. */
export async function preview(asked: object): Promise<{ wish: MendWish; seen: string; shown: MendPreview | null }> {
  const wish = mendWishSchema.parse(asked);
  if (wish.kind === 'patch' || wish.kind === 'convert') {
    expect(await act('preview', wish)).toMatchObject({ state: 'done', error: null });
    const shown = (await readMendPreview(database, id))!;
    return { wish, seen: shown.seen, shown };
  }
  const plan = await planMend({ folder, brief: order, wish, kept: new Set(), now: Date.now(), isSound: await soundFrames(database, id) });
  expect(plan.conflicts).toEqual([]);
  return { wish, seen: plan.seen, shown: null };
}

/** Carries a mend out. @returns its journal */
export async function mend(asked: object): Promise<string> {
  const { wish, seen } = await preview(asked);
  expect(await act('apply', wish, seen)).toMatchObject({ state: 'done', error: null });
  return (await listMends(database, id, 1))[0]!.journal;
}

/** Takes a mend back. */
export async function undo(journal: string): Promise<void> {
  expect(await act('undo', null, journal)).toMatchObject({ state: 'done', error: null });
}
