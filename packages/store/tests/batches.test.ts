import { parseBrief } from '@mint-tally/core';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { makeDatabase } from '../../../tests/support/database.ts';
import { takeJob } from '../../../tests/support/jobs.ts';
import {
  addBatchLines,
  assignTask,
  batchSettingsSchema,
  BatchRunningError,
  comingFrames,
  createBatch,
  createShot,
  endBatch,
  ensureProject,
  findBatch,
  findJob,
  giveFrames,
  judgeBatchFrame,
  lastLines,
  listAlarms,
  listBatchFrames,
  listBatchLines,
  listOrphanBatches,
  newestBatch,
  notePresence,
  raiseAlarm,
  releaseFallenEngines,
  requestJob,
  saveBrief,
  secondsByMachine,
  settleAlarm,
  takeMachineOut,
  updateBatchFrame,
  wishBatch,
  type Database,
} from '../src/index.ts';

let database: Database;
let projectId: number;
let shotId: number;
let briefId: number;
let shots = 0;

beforeAll(async () => {
  database = await makeDatabase();
  projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
});
afterAll(() => database.close());
beforeEach(async () => {
  shotId = await createShot(database, { projectId, name: `orr_${++shots}`, note: '', root: 'shots', folder: String(shots) }, 'ada');
  await database.transaction((inside) =>
    saveBrief(inside, shotId, parseBrief({ shot: `orr_${shots}`, range: '1-6', passes: [{ name: 'beauty', pattern: 'b.####.exr' }] }), 'ada'),
  );
  briefId = (await database.rows('SELECT id FROM briefs WHERE shot_id = ?', [shotId]))[0].id as number;
});

const make = (settings: object = {}) =>
  database.transaction((inside) =>
    createBatch(
      inside,
      { shotId, briefId, service: 'farm', command: ['orrery', '--passes=[{}]'], settings: batchSettingsSchema.parse(settings) },
      [
        { machine: 'bowline', frames: [3, 1, 2] },
        { machine: 'reef', frames: [4, 5, 6] },
      ],
      'ada',
    ),
  );
const frameOf = async (batch: number, frame: number) => (await listBatchFrames(database, batch)).find((one) => one.frame === frame)!;

describe('a batch in the database', () => {
  it('comes back as it was written, its frames in their turn', async () => {
    const id = await make({ badInRow: 5, passes: ['beauty'] });
    expect(await findBatch(database, id)).toMatchObject({
      shotId,
      service: 'farm',
      command: ['orrery', '--passes=[{}]'],
      wanted: 'run',
      outcome: null,
      settings: { badInRow: 5, chunk: 8 },
    });
    const frames = await listBatchFrames(database, id);
    expect(frames.map(({ machine, frame }) => `${machine} ${frame}`)).toEqual(['bowline 3', 'bowline 1', 'bowline 2', 'reef 4', 'reef 5', 'reef 6']);
    expect(frames.every(({ state, verdict, seconds }) => state === 'waiting' && verdict === null && seconds === null)).toBe(true);
    expect((await newestBatch(database, shotId))!.id).toBe(id);
    expect(await findBatch(database, 999_999)).toBeNull();
  });

  it('is the only one of its shot while it goes on', async () => {
    const id = await make();
    await expect(make()).rejects.toThrow(BatchRunningError);
    await database.transaction((inside) => endBatch(inside, id, 'done'));
    expect(await make()).toBeGreaterThan(id);
  });

  it('tells which frames are still to come, of which passes', async () => {
    expect(await comingFrames(database, shotId)).toBeNull();
    const id = await make({ passes: ['depth'] });
    await updateBatchFrame(database, id, 4, { state: 'done', machine: null, seconds: 2 });
    await updateBatchFrame(database, id, 5, { state: 'rendering', machine: null, seconds: null });
    const coming = (await comingFrames(database, shotId))!;
    expect([...coming.frames]).toEqual([1, 2, 3, 5, 6]);
    expect(coming.passes).toEqual(new Set(['depth']));
    expect(Math.abs(coming.since - Date.now())).toBeLessThan(60_000);
    await database.transaction((inside) => endBatch(inside, id, 'stopped'));
    expect(await comingFrames(database, shotId)).toBeNull();
    expect((await frameOf(id, 5)).state).toBe('stopped');
    expect((await frameOf(id, 4)).state).toBe('done');
  });

  it('keeps verdicts, and frames that go to another machine behind its own', async () => {
    const id = await make();
    await judgeBatchFrame(database, id, 1, 'bad', 'x'.repeat(2000));
    expect((await frameOf(id, 1)).says).toHaveLength(1000);
    await assignTask(database, id, 'task-1', [4, 5]);
    await updateBatchFrame(database, id, 4, { state: 'done', machine: null, seconds: 1 });
    await updateBatchFrame(database, id, 5, { state: 'stopped', machine: null, seconds: null });
    await database.transaction((inside) => giveFrames(inside, id, [{ machine: 'bowline', frames: [4, 5, 6] }]));
    const frames = await listBatchFrames(database, id);
    // What was done stays where it was done.
    expect(frames.map(({ machine, frame }) => `${machine} ${frame}`)).toEqual(['bowline 3', 'bowline 1', 'bowline 2', 'bowline 5', 'bowline 6', 'reef 4']);
    expect(await frameOf(id, 5)).toMatchObject({ state: 'waiting', taskId: null });
  });

  it('takes wishes and machines out only while it goes on', async () => {
    const id = await make();
    await wishBatch(database, id, 'pause');
    await takeMachineOut(database, id, 'reef');
    await takeMachineOut(database, id, 'reef');
    expect(await findBatch(database, id)).toMatchObject({ wanted: 'pause', settings: { out: ['reef'] } });
    await database.transaction((inside) => endBatch(inside, id, 'stopped'));
    await wishBatch(database, id, 'run');
    await takeMachineOut(database, id, 'bowline');
    expect(await findBatch(database, id)).toMatchObject({ wanted: 'pause', outcome: 'stopped', settings: { out: ['reef'] } });
    await database.transaction((inside) => endBatch(inside, id, 'failed'));
    expect((await findBatch(database, id))!.outcome).toBe('stopped');
  });

  it('is not set going again by a wish that a stop has overtaken', async () => {
    const id = await make();
    const wantedAfter = async (wish: Parameters<typeof wishBatch>[2]) => {
      await wishBatch(database, id, wish);
      return (await findBatch(database, id))!.wanted;
    };
    expect(await wantedAfter('pause')).toBe('pause');
    expect(await wantedAfter('stop-after-frame')).toBe('stop-after-frame');
    expect(await wantedAfter('run')).toBe('stop-after-frame');
    expect(await wantedAfter('stop-now')).toBe('stop-now');
    for (const wish of ['stop-after-frame', 'run', 'pause'] as const) expect(await wantedAfter(wish)).toBe('stop-now');
  });

  it('keeps each line of a log once', async () => {
    const id = await make();
    const line = (number: number, machine: string) => ({
      number,
      machine,
      at: new Date(Date.UTC(2026, 0, 1, 0, 0, number)).toISOString(),
      text: `line ${number}`,
    });
    await addBatchLines(database, id, 'a', [line(1, 'reef'), line(2, 'bowline')]);
    await addBatchLines(database, id, 'a', [line(2, 'bowline'), line(3, 'reef')]);
    await addBatchLines(database, id, 'b', [line(1, 'reef')]);
    await addBatchLines(database, id, 'b', []);
    expect(Object.fromEntries(await lastLines(database, id))).toEqual({ a: 3, b: 1 });
    expect((await listBatchLines(database, id, 'reef')).map(({ text }) => text)).toEqual(['line 1', 'line 1', 'line 3']);
    expect(await listBatchLines(database, id, null, 2)).toHaveLength(2);
  });

  it('raises an alarm once while it stands, and again after', async () => {
    const id = await make();
    await raiseAlarm(database, id, 'stuck', 'reef', 'first');
    await raiseAlarm(database, id, 'stuck', 'reef', 'second');
    await raiseAlarm(database, id, 'stuck', 'bowline', 'other');
    expect((await listAlarms(database, id)).map(({ message }) => message)).toEqual(['other', 'first']);
    await settleAlarm(database, id, 'stuck', 'reef');
    await raiseAlarm(database, id, 'stuck', 'reef', 'third');
    expect((await listAlarms(database, id)).map(({ message, settledAt }) => `${message} ${settledAt === null}`)).toEqual([
      'third true',
      'other true',
      'first false',
    ]);
    await database.transaction((inside) => endBatch(inside, id, 'done'));
    expect((await listAlarms(database, id)).every(({ settledAt }) => settledAt !== null)).toBe(true);
  });

  it('that nobody brings about is found', async () => {
    const id = await make();
    const mine = async () => (await listOrphanBatches(database)).filter((one) => one.shotId === shotId);
    expect(await mine()).toEqual([{ id, shotId, actor: 'ada' }]);
    await requestJob(database, shotId, { kind: 'render', batch: id }, 'ada');
    expect(await mine()).toEqual([]);
    await database.transaction((inside) => endBatch(inside, id, 'done'));
  });
});

describe('an engine that fell', () => {
  it('gives its jobs back at once, to whoever is on the same computer and sees that it is gone', async () => {
    const host = `host ${shotId}`;
    await notePresence(database, { id: 'fallen', host, processId: 11 });
    await notePresence(database, { id: 'alive', host, processId: 22 });
    const jobId = await requestJob(database, shotId, { kind: 'measure', source: { from: 'folder', root: 'shots', folder: '' } }, 'ada');
    expect((await takeJob(database, 'fallen', { kinds: ['measure'] }))!.id).toBe(jobId);
    expect(await takeJob(database, 'alive', { kinds: ['measure'] })).toBeNull();
    await releaseFallenEngines(database, 'another host', () => false);
    expect(await takeJob(database, 'alive', { kinds: ['measure'] })).toBeNull();
    await releaseFallenEngines(database, host, (processId) => processId === 22);
    expect((await findJob(database, jobId))!.state).toBe('queued');
    expect((await takeJob(database, 'alive', { kinds: ['measure'] }))!.id).toBe(jobId);
  });
});

describe('times of machines', () => {
  const finish = async (batch: number, times: Record<number, number>) => {
    for (const [frame, seconds] of Object.entries(times)) await updateBatchFrame(database, batch, Number(frame), { state: 'done', machine: null, seconds });
    await database.transaction((inside) => endBatch(inside, batch, 'done'));
  };

  it('are those of one batch of the shot itself, in which several took part', async () => {
    expect(await secondsByMachine(database, shotId, 'farm')).toEqual(new Map());
    await finish(await make(), { 1: 8, 2: 10, 4: 20 });
    const both = new Map([
      ['bowline', [8, 10]],
      ['reef', [20]],
    ]);
    expect(await secondsByMachine(database, shotId, 'farm')).toEqual(both);
    // One frame rendered again by one machine says nothing about who is faster.
    await finish(await make(), { 3: 90 });
    expect(await secondsByMachine(database, shotId, 'farm')).toEqual(both);
    await finish(await make(), { 3: 4, 5: 6 });
    expect(await secondsByMachine(database, shotId, 'farm')).toEqual(
      new Map([
        ['bowline', [4]],
        ['reef', [6]],
      ]),
    );
    expect(await secondsByMachine(database, shotId, 'desk')).toEqual(new Map());
    expect(await secondsByMachine(database, shotId + 1, 'farm')).toEqual(new Map());
  });
});
