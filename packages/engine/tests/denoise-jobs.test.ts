import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { parseBrief, type DenoiseFigures, type DenoiseRequest } from '@mint-tally/core';
import { cancelJob, endDenoise, findDenoise, findJob, newestBrief, newestTally, saveBrief } from '@mint-tally/store';
import { describe, expect, it } from 'vitest';
import {
  beginDenoising,
  FRAMES,
  database,
  reports,
  runners,
  startRunner,
  makeShot,
  usual,
  begin,
  sitDown,
  settle,
  until,
  filesIn,
  namesOf,
  resultOf,
  bytesIn,
} from '../../../tests/support/denoising.ts';
import { LIT_PASSES, litBrief, renderLit, writeLitShot } from '../../../tests/support/lit-shot.ts';

beginDenoising();

/** What an undisturbed run of the same settings writes, and what it comes to. */
let whole: string[] = [];
let figures: DenoiseFigures | null = null;

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
    figures = (await findDenoise(database, run))!.parts[0]!.figures;
    expect(figures!.told).toBe(FRAMES);
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

  it('takes lights along, orders what has come of each, and says where one could not', async () => {
    const { id, folder } = await makeShot('with-lights');
    const lights = ['diffuse', 'specular', 'emission'] as const;
    const frames = Array.from({ length: 4 }, (_, i) => renderLit(i, 4, 10 + i, 'mirrors'));
    writeLitShot(folder, frames, [...LIT_PASSES, ...lights]);
    const brief = litBrief(4, [...LIT_PASSES, ...lights]);
    rmSync(path.join(folder, 'specular', 'specular.1002.exr'));
    rmSync(path.join(folder, 'emission'), { recursive: true });
    await database.transaction((inside) => saveBrief(inside, id, parseBrief(brief), 'ada'));
    const along = lights.map((pass) => ({ pass, target: { name: `${pass}_denoised`, pattern: `${pass}_denoised/${pass}_denoised.####.exr` } }));
    const { run, jobs } = await begin(id, { ...usual, range: '1001-1004', lights: along }, { length: 2 });
    expect(await settle(jobs[0]!)).toMatchObject({ state: 'done', error: null });
    const parts = (await findDenoise(database, run))!.parts.map(({ figures }) => figures!.lights.map(({ missing }) => missing));
    expect(parts).toEqual([
      ['', '1002', '1001-1002'],
      ['', '', '1003-1004'],
    ]);
    expect(filesIn(path.join(folder, 'diffuse_denoised'))).toEqual(namesOf('diffuse_denoised', '1001-1004'));
    expect(filesIn(path.join(folder, 'specular_denoised'))).toEqual(namesOf('specular_denoised', '1001,1003-1004'));
    const saved = (await newestBrief(database, id))!.brief;
    expect(saved.passes.filter(({ denoisedFrom }) => denoisedFrom).map(({ name, denoisedFrom }) => [name, denoisedFrom])).toEqual([
      ['beauty_denoised', 'beauty'],
      ['diffuse_denoised', 'diffuse'],
      ['specular_denoised', 'specular'],
    ]);
  });

  /** A range that was paused after so many frames. Small frames may all be written before the pause is heard of: then another is begun. */
  async function pauseInTime(
    name: string,
    frames: number,
    goOn: (id: number, run: number) => Promise<number[]> = async () => [],
    prepare: (id: number, folder: string) => Promise<DenoiseRequest> = async () => usual,
  ) {
    for (let attempt = 1; attempt <= 8; attempt++) {
      const { id, folder } = await makeShot(`${name}-${attempt}`);
      const { run, jobs } = await begin(id, await prepare(id, folder));
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
    // It tells of the frames before the pause as well.
    const both = (await findDenoise(database, run))!.parts[0]!.figures!;
    expect(both).toMatchObject({ written: FRAMES, told: FRAMES, fireflies: figures!.fireflies, holes: figures!.holes });
    for (const key of ['noiseBefore', 'noise', 'temporalBefore'] as const) expect(both[key]!).toBeCloseTo(figures![key]!, 10);
    // The first frame behind the pause has none before it that is still known.
    expect(both.temporalNoise! / figures!.temporalNoise!).toBeCloseTo(1, 1);
  });

  it('tells once of frames that are done again since a light of theirs cannot be read', async () => {
    const { id, folder, run } = await pauseInTime(
      'unreadable',
      2,
      async () => [],
      async (shot, there) => {
        mkdirSync(path.join(there, 'emission'));
        for (const name of namesOf('emission', usual.range)) writeFileSync(path.join(there, 'emission', name), 'no picture');
        await database.transaction((inside) => saveBrief(inside, shot, parseBrief(litBrief(FRAMES, [...LIT_PASSES, 'emission'])), 'ada'));
        return { ...usual, lights: [{ pass: 'emission', target: { name: 'emission_denoised', pattern: 'emission_denoised/emission_denoised.####.exr' } }] };
      },
    );
    expect(filesIn(resultOf(folder)).length).toBeLessThan(FRAMES);
    expect((await settle((await sitDown(id, run))[0]!)).state).toBe('done');
    const both = (await findDenoise(database, run))!.parts[0]!.figures!;
    expect(both).toMatchObject({ written: FRAMES, told: FRAMES, frames: usual.range, fireflies: figures!.fireflies });
    expect(both.lights).toEqual([{ pass: 'emission', missing: usual.range }]);
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
