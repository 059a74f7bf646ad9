import { readdirSync, statSync } from 'node:fs';
import path from 'node:path';
import { formatFrameRange } from '@mint-tally/core';
import { BatchRunningError, listAlarms, listBatchLines, newestTally, takeMachineOut, wishBatch } from '@mint-tally/store';
import { describe, expect, it } from 'vitest';
import { beginBatches, database, makeShot, startBatch, until, ended, framesWhere, remainder } from '../../../tests/support/batches.ts';

beginBatches();

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
});
