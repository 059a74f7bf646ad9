import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, realpathSync, rmSync, statSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fillFromBrief, formatFrameRange, FrameSet, framesToRender, parseBrief, splitFrames, workOutOrder, type SplitRule } from '@mint-tally/core';
import { HttpRenderService, InspectionPool, JobRunner, servicesFolder, type Config } from '@mint-tally/engine';
import { Farm, serveFarm, USUAL_COMMAND } from '@mint-tally/standin-farm';
import {
  batchSettingsSchema,
  BatchRunningError,
  createBatch,
  createShot,
  ensureProject,
  findBatch,
  listAlarms,
  listBatchFrames,
  listBatchLines,
  newestBrief,
  newestTally,
  requestJob,
  saveBrief,
  takeMachineOut,
  wishBatch,
  type Batch,
  type BatchFrame,
  type Database,
} from '@mint-tally/store';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { findFreePort } from '../src/index.ts';
import { testConfig } from '../../../tests/support/config.ts';
import { makeDatabase } from '../../../tests/support/database.ts';

const token = 'a token for this test';
const MACHINES = ['bowline', 'reef', 'clove'].map((name) => ({ name, speed: 8 }));
let top: string;
let port: number;
let database: Database;
let config: Config;
let service: Awaited<ReturnType<typeof serveFarm>>;
let pool: InspectionPool;
let runner: JobRunner;
let projectId: number;
const reports: string[] = [];

async function startFarm(): Promise<void> {
  const farm = new Farm({ workerFile: path.join(servicesFolder(), 'render-worker.js'), threads: 2, machines: MACHINES });
  service = await serveFarm(farm, { token, folders: [top], port });
}

async function startRunner(): Promise<void> {
  const services = [new HttpRenderService({ name: 'farm', url: `http://127.0.0.1:${port}`, token })];
  runner = new JobRunner({ database, config, pool, services }, (line) => reports.push(line));
  await runner.start();
}

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
afterAll(async () => {
  await runner.stop();
  await pool.close();
  await service.close();
  await database.close();
  rmSync(top, { recursive: true, force: true });
});

async function makeShot(name: string, last: number): Promise<{ id: number; folder: string }> {
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

async function startBatch(
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

async function until(
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
const ended = (id: number) => until(id, (batch) => batch.outcome !== null);
const framesWhere = (frames: readonly BatchFrame[], holds: (frame: BatchFrame) => boolean) =>
  formatFrameRange(FrameSet.of(frames.filter(holds).map(({ frame }) => frame)));

async function remainder(shotId: number) {
  const { brief } = (await newestBrief(database, shotId))!;
  return framesToRender(workOutOrder(brief), (await newestTally(database, shotId))!.tally.findings);
}

describe('a batch', () => {
  it('renders every frame once over three machines, and counts them as they come', async () => {
    const shot = await makeShot('whole', 1012);
    // So long that a count falls between the first frame and the last, on a busy computer too.
    const id = await startBatch(shot.id, { samples: 500 });
    const halfway = await until(id, (_, frames) => frames.some(({ verdict }) => verdict === 'sound') && frames.some(({ state }) => state !== 'done'));
    expect(halfway.batch.outcome).toBeNull();
    const { batch, frames } = await ended(id);
    expect(batch.outcome).toBe('done');
    expect(frames.map(({ state, verdict }) => `${state} ${verdict}`)).toEqual(Array(12).fill('done sound'));
    expect(new Set(frames.map(({ machine }) => machine))).toEqual(new Set(['bowline', 'reef', 'clove']));
    expect((await newestTally(database, shot.id))!.tally).toMatchObject({ ready: true, findings: [] });
    const lines = await listBatchLines(database, id, null);
    expect(lines.filter(({ text }) => /^frame \d+: 500 samples/.test(text))).toHaveLength(12);
    expect((await listBatchLines(database, id, 'reef')).every(({ machine }) => machine === 'reef')).toBe(true);
    expect((await remainder(shot.id)).render.isEmpty).toBe(true);
  });

  it('shows what is still to come as such, not as missing', async () => {
    const shot = await makeShot('coming', 1006);
    const id = await startBatch(shot.id, { samples: 3000 });
    await until(id, async (_, frames) => frames.some(({ state }) => state === 'rendering') && (await newestTally(database, shot.id)) !== null);
    const { tally } = (await newestTally(database, shot.id))!;
    expect(tally.findings.map(({ code, frames }) => `${code} ${frames}`)).toEqual(['coming-frame 1001-1006', 'coming-frame 1001-1006']);
    expect(tally.ready).toBe(false);
    await expect(startBatch(shot.id)).rejects.toThrow(BatchRunningError);
    await wishBatch(database, id, 'stop-now');
    const { batch, frames } = await ended(id);
    expect(batch.outcome).toBe('stopped');
    expect(framesWhere(frames, ({ state }) => state === 'stopped')).toBe('1001-1006');
    expect((await newestTally(database, shot.id))!.tally.findings.map(({ code }) => code)).toEqual(['missing-pass', 'missing-pass']);
  });

  it('judges its frames by the passes that it renders', async () => {
    const shot = await makeShot('beauty_alone', 1006);
    const { frames } = await ended(await startBatch(shot.id, { passes: ['beauty'] }));
    expect(frames.map(({ verdict, says }) => `${verdict} ${says}`)).toEqual(Array(6).fill('sound '));
    // The other pass is still missing, for the shot and not for this batch.
    expect((await newestTally(database, shot.id))!.tally.findings.map(({ code, pass }) => `${code} ${pass}`)).toEqual(['missing-pass depth']);
  });

  it('says of each frame what is wrong with it, and proposes exactly those again', async () => {
    const shot = await makeShot('faulty', 1012);
    const id = await startBatch(shot.id, { faults: 'bowline:cut-short:1002,reef:skip:1006,clove:half-size:1010' });
    const { frames } = await ended(id);
    const says = Object.fromEntries(frames.filter(({ verdict }) => verdict === 'bad').map(({ frame, says: text }) => [frame, text]));
    expect(says).toEqual({
      1002: 'beauty: Files cut short; depth: Files cut short',
      1006: 'beauty: Frames missing; depth: Frames missing',
      1010: 'beauty: Wrong resolution; depth: Wrong resolution',
    });
    const { render } = await remainder(shot.id);
    expect(formatFrameRange(render)).toBe('1002-1010x4');
    const before = Object.fromEntries(readdirSync(shot.folder).map((file) => [file, statSync(path.join(shot.folder, file)).mtimeMs]));
    await ended(await startBatch(shot.id, { frames: render }));
    expect((await remainder(shot.id)).render.isEmpty).toBe(true);
    const touched = readdirSync(shot.folder).filter((file) => statSync(path.join(shot.folder, file)).mtimeMs !== before[file]);
    expect(touched.sort()).toEqual(['beauty', 'depth'].flatMap((pass) => [1002, 1006, 1010].map((frame) => `faulty_${pass}.${frame}.exr`)));
  });

  it('takes a machine out after three bad frames in a row, and gives its frames to the others', async () => {
    const shot = await makeShot('alarm', 1024);
    const id = await startBatch(shot.id, { faults: 'reef:empty-file', settings: { chunk: 2 }, samples: 500 });
    const { batch, frames } = await ended(id);
    const [alarm] = await listAlarms(database, id);
    expect(alarm).toMatchObject({ kind: 'bad-in-row', machine: 'reef' });
    expect(alarm.message).toMatch(/^3 bad frames in a row, 10\d\d-10\d\d: beauty: Empty files/);
    expect(batch.settings.out).toEqual(['reef']);
    expect(frames.every(({ state }) => state === 'done' || state === 'stopped')).toBe(true);
    const bad = frames.filter(({ verdict }) => verdict === 'bad');
    expect(bad.length).toBeGreaterThanOrEqual(3);
    expect(bad.length).toBeLessThan(8);
    expect(bad.every(({ machine }) => machine === 'reef')).toBe(true);
    expect(frames.filter(({ verdict }) => verdict === 'sound')).toHaveLength(24 - bad.length);
  });

  it('gives the frames of a machine that hangs to the others, when it is taken out', async () => {
    const shot = await makeShot('hanging', 1012);
    const id = await startBatch(shot.id, { faults: 'reef:hang:1006' });
    await until(id, (_, frames) => frames.some(({ frame, state }) => frame === 1006 && state === 'rendering'));
    await until(id, (_, frames) => frames.filter(({ machine }) => machine !== 'reef').every(({ state }) => state === 'done'));
    await takeMachineOut(database, id, 'reef');
    const { batch, frames } = await ended(id);
    expect(batch.outcome).toBe('done');
    expect(frames.every(({ verdict }) => verdict === 'sound')).toBe(true);
    expect(frames.find(({ frame }) => frame === 1006)!.machine).not.toBe('reef');
  });

  it('pauses, goes on, and stops after the frames in hand', async () => {
    const shot = await makeShot('paused', 1030);
    const id = await startBatch(shot.id, { samples: 200 });
    await until(id, (_, frames) => frames.filter(({ state }) => state === 'done').length >= 2);
    await wishBatch(database, id, 'pause');
    await until(id, (_, frames) => frames.every(({ state }) => state !== 'rendering'));
    await sleep(500);
    const done = (frames: readonly BatchFrame[]) => frames.filter(({ state }) => state === 'done').length;
    const held = done(await listBatchFrames(database, id));
    await sleep(500);
    expect(done(await listBatchFrames(database, id))).toBe(held);
    await wishBatch(database, id, 'run');
    await until(id, (_, frames) => done(frames) > held && frames.some(({ state }) => state === 'rendering'));
    await wishBatch(database, id, 'stop-after-frame');
    const { batch, frames } = await ended(id);
    expect(batch.outcome).toBe('stopped');
    // Every frame that was begun was ended: nothing on disk is cut short.
    expect(frames.filter(({ state }) => state === 'done').every(({ verdict }) => verdict === 'sound')).toBe(true);
    // The batch was given more samples than the brief orders at least, which is nothing to tell.
    const codes = (await newestTally(database, shot.id))!.tally.findings.map(({ code }) => code);
    expect(new Set(codes)).toEqual(new Set(['missing-frame']));
  });

  it('outlives its service: what was done is kept, what was not is ordered anew', async () => {
    const shot = await makeShot('farmless', 1012);
    const id = await startBatch(shot.id, { samples: 200 });
    await until(id, (_, frames) => frames.filter(({ state }) => state === 'done').length >= 2);
    await service.close();
    await until(id, async () => (await listAlarms(database, id)).some(({ kind }) => kind === 'service-lost'));
    const stamps = readdirSync(shot.folder).map((file) => [file, statSync(path.join(shot.folder, file)).mtimeMs] as const);
    const doneBefore = (await listBatchFrames(database, id)).filter(({ state }) => state === 'done').map(({ frame }) => frame);
    await startFarm();
    const { batch, frames } = await ended(id);
    expect(batch.outcome).toBe('done');
    expect(frames.every(({ verdict }) => verdict === 'sound')).toBe(true);
    expect((await listAlarms(database, id))[0].settledAt).not.toBeNull();
    const untouched = stamps.filter(([file]) => doneBefore.some((frame) => file.includes(String(frame))));
    for (const [file, modified] of untouched) expect(statSync(path.join(shot.folder, file)).mtimeMs).toBe(modified);
  });

  it('outlives its engine: the next one goes on where it was', async () => {
    const shot = await makeShot('engineless', 1018);
    const id = await startBatch(shot.id, { samples: 100 });
    for (let turn = 0; turn < 3; turn++) {
      await until(id, (batch, frames) => batch.outcome !== null || frames.filter(({ state }) => state === 'done').length >= (turn + 1) * 3);
      await runner.stop();
      await startRunner();
    }
    const { frames } = await ended(id);
    expect(frames.every(({ state, verdict }) => state === 'done' && verdict === 'sound')).toBe(true);
    const rendered = (await listBatchLines(database, id, null)).filter(({ text }) => /samples/.test(text)).map(({ text }) => text.split(':')[0]);
    expect(rendered.length).toBe(18);
    expect(new Set(rendered).size).toBe(18);
  });

  it('that is only watched sees the frames come that others render', async () => {
    const shot = await makeShot('watched', 1004);
    const source = await makeShot('watched_source', 1004);
    await ended(await startBatch(source.id));
    const id = await startBatch(shot.id, { service: null });
    const copy = (pass: string, frame: number, bytes?: number) => {
      const content = Buffer.alloc(bytes ?? 0);
      const from = path.join(source.folder, `watched_source_${pass}.${frame}.exr`);
      writeFileSync(path.join(shot.folder, `watched_${pass}.${frame}.exr`), bytes === undefined ? readBytes(from) : content);
    };
    for (const frame of [1001, 1002, 1004]) for (const pass of ['beauty', 'depth']) copy(pass, frame);
    for (const pass of ['beauty', 'depth']) copy(pass, 1003, 0);
    const { batch, frames } = await ended(id);
    expect(batch.outcome).toBe('done');
    expect(frames.map(({ frame, verdict, says }) => `${frame} ${verdict} ${says}`)).toEqual([
      '1001 sound ',
      '1002 sound ',
      '1003 bad beauty: Empty files; depth: Empty files',
      '1004 sound ',
    ]);
    const lines = (await listBatchLines(database, id, null)).map(({ text }) => text).sort();
    expect(lines).toEqual([
      'frame 1001 has arrived: sound',
      'frame 1002 has arrived: sound',
      'frame 1003 has arrived: beauty: Empty files; depth: Empty files',
      'frame 1004 has arrived: sound',
    ]);
  });

  it('tells a frame of another camera, though nothing stops it', async () => {
    const shot = await makeShot('camera', 1008);
    const { frames } = await ended(await startBatch(shot.id, { faults: 'reef:other-camera:1006' }));
    const told = frames.filter(({ says }) => says !== '');
    expect(told.map(({ frame, verdict }) => `${frame} ${verdict}`)).toEqual(['1006 sound']);
    expect(told[0].says).toContain('camera “gallery” where “keeper” is usual');
  });

  it('that its service refuses fails in its words', async () => {
    const shot = await makeShot('refused', 1004);
    const id = await startBatch(shot.id, { faults: 'reef:melts' });
    const { batch, frames } = await ended(id);
    expect(batch.outcome).toBe('failed');
    expect(frames.every(({ state }) => state === 'stopped')).toBe(true);
    // The batch has ended a moment before its job.
    const error = async () => String((await database.rows("SELECT error FROM jobs WHERE shot_id = ? AND kind = 'render'", [shot.id]))[0]!.error);
    await expect.poll(error, { timeout: 20_000 }).toContain('melts is no fault');
    expect(existsSync(path.join(shot.folder, 'refused_beauty.1001.exr'))).toBe(false);
  });
});

function readBytes(file: string): Buffer {
  return Buffer.from(readFileSync(file));
}
