import { mkdirSync, mkdtempSync, realpathSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fillFromBrief, formatFrameRange, FrameSet, framesToRender, parseBrief, splitFrames, workOutOrder, type SplitRule } from '@mint-tally/core';
import { HttpRenderService, InspectionPool, JobRunner, servicesFolder, type Config } from '@mint-tally/engine';
import { Farm, serveFarm, USUAL_COMMAND } from '@mint-tally/standin-farm';
import {
  batchSettingsSchema,
  createBatch,
  createShot,
  ensureProject,
  findBatch,
  listBatchFrames,
  newestBrief,
  newestTally,
  requestJob,
  saveBrief,
  type Batch,
  type BatchFrame,
  type Database,
} from '@mint-tally/store';
import { afterAll, beforeAll } from 'vitest';
import { findFreePort } from '../../packages/launch/src/index.ts';
import { testConfig } from './config.ts';
import { makeDatabase } from './database.ts';
import { endAll } from './ending.ts';

const token = 'a token for this test';
const MACHINES = ['bowline', 'reef', 'clove'].map((name) => ({ name, speed: 8 }));
let top: string;
let port: number;
export let database: Database;
let config: Config;
export let service: Awaited<ReturnType<typeof serveFarm>>;
let pool: InspectionPool;
export let runner: JobRunner;
let projectId: number;
const reports: string[] = [];

export async function startFarm(): Promise<void> {
  const farm = new Farm({ workerFile: path.join(servicesFolder(), 'render-worker.js'), threads: 2, machines: MACHINES });
  service = await serveFarm(farm, { token, folders: [top], port });
}

export async function startRunner(): Promise<void> {
  const services = [new HttpRenderService({ name: 'farm', url: `http://127.0.0.1:${port}`, token })];
  runner = new JobRunner({ database, config, pool, services }, (line) => reports.push(line));
  await runner.start();
}

/** Begins a render service and an engine before the tests of a file, and ends them behind them. */
export function beginBatches(): void {
  beforeAll(async () => {
    top = realpathSync(mkdtempSync(path.join(os.tmpdir(), 'mint-batch-')));
    port = await findFreePort();
    database = await makeDatabase();
    config = testConfig(top, [{ name: 'shots', writable: true }]);
    projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
    pool = new InspectionPool(1);
    await startFarm();
    await startRunner();
  });
  afterAll(() => endAll({ runner, pool, service, database, top }));
}

export async function makeShot(name: string, last: number): Promise<{ id: number; folder: string }> {
  const folder = path.join(top, 'shots', name);
  mkdirSync(folder);
  const id = await createShot(database, { projectId, name, note: '', root: 'shots', folder: name }, 'ada');
  const passes = [
    { name: 'beauty', role: 'beauty', pattern: `${name}_beauty.####.exr`, channels: ['R', 'G', 'B', 'A'], depth: 'half' },
    { name: 'depth', role: 'depth', pattern: `${name}_depth.####.exr`, channels: ['Z'], depth: 'float' },
  ];
  await database.transaction((inside) =>
    saveBrief(inside, id, parseBrief({ shot: name, range: `1001-${last}`, resolution: [32, 18], sampling: { samples: 4 }, passes }), 'ada'),
  );
  return { id, folder };
}

interface Start {
  readonly frames?: FrameSet;
  readonly faults?: string;
  readonly rule?: SplitRule;
  readonly service?: string | null;
  readonly settings?: object;
  readonly samples?: number;
  /** All of the brief when left out. */
  readonly passes?: readonly string[];
}

export async function startBatch(
  shotId: number,
  { frames, faults, rule = 'even', service: name = 'farm', settings = {}, samples, passes = [] }: Start = {},
): Promise<number> {
  const { id: briefId, brief } = (await newestBrief(database, shotId))!;
  const machines = name === null ? [{ name: '', speed: 1 }] : MACHINES;
  const command = fillFromBrief(
    USUAL_COMMAND,
    { ...brief, passes: brief.passes.filter((pass) => passes.length === 0 || passes.includes(pass.name)) },
    ['frame', 'folder'],
    samples === undefined ? {} : { samples },
  );
  return database.transaction(async (inside) => {
    const id = await createBatch(
      inside,
      {
        shotId,
        briefId,
        service: name,
        command: [...command, ...(faults ? [`--faults=${faults}`] : [])],
        settings: batchSettingsSchema.parse({ chunk: 3, passes, ...settings }),
      },
      splitFrames(frames ?? workOutOrder(brief).frames, machines, rule),
      'ada',
    );
    await requestJob(inside, shotId, { kind: 'render', batch: id }, 'ada');
    return id;
  });
}

export async function until(
  id: number,
  holds: (batch: Batch, frames: readonly BatchFrame[]) => boolean | Promise<boolean>,
): Promise<{ batch: Batch; frames: BatchFrame[] }> {
  for (let i = 0; i < 1000; i++) {
    const [batch, frames] = [(await findBatch(database, id))!, await listBatchFrames(database, id)];
    if (await holds(batch, frames)) return { batch, frames };
    await sleep(50);
  }
  throw new Error(`batch ${id} does not get there: ${JSON.stringify(await listBatchFrames(database, id))} ${reports.join('\n')}`);
}
export const ended = (id: number) => until(id, (batch) => batch.outcome !== null);
export const framesWhere = (frames: readonly BatchFrame[], holds: (frame: BatchFrame) => boolean) =>
  formatFrameRange(FrameSet.of(frames.filter(holds).map(({ frame }) => frame)));

export async function remainder(shotId: number) {
  const { brief } = (await newestBrief(database, shotId))!;
  return framesToRender(workOutOrder(brief), (await newestTally(database, shotId))!.tally.findings);
}
