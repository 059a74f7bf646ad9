import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { listAlarms, listBatchFrames, listBatchLines, newestTally, wishBatch, type BatchFrame } from '@mint-tally/store';
import { describe, expect, it } from 'vitest';
import { beginBatches, database, service, runner, startFarm, startRunner, makeShot, startBatch, until, ended } from '../../../tests/support/batches.ts';

beginBatches();

describe('a batch that is held up, or left to others', () => {
  it('pauses, goes on, and stops after the frames in hand', async () => {
    const shot = await makeShot('paused', 1030);
    const id = await startBatch(shot.id, { samples: 200 });
    await until(id, (_, frames) => frames.filter(({ state }) => state === 'done').length >= 2);
    await wishBatch(database, id, 'pause');
    const done = (frames: readonly BatchFrame[]) => frames.filter(({ state }) => state === 'done').length;
    // Between two frames none is rendered either: it is paused when that stays so.
    let held = -1;
    for (let isHeld = false; !isHeld;) {
      await sleep(1000);
      const now = await listBatchFrames(database, id);
      isHeld = now.every(({ state }) => state !== 'rendering') && done(now) === held;
      held = done(now);
    }
    expect(held).toBeLessThan(30);
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
    await expect.poll(error, { timeout: 90_000 }).toContain('melts is no fault');
    expect(existsSync(path.join(shot.folder, 'refused_beauty.1001.exr'))).toBe(false);
  });
});

function readBytes(file: string): Buffer {
  return Buffer.from(readFileSync(file));
}
