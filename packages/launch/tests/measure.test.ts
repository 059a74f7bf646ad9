import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, realpathSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fitNoise, fitTime, noiseAt, parseBrief, secondsAt, type JobRequest } from '@mint-tally/core';
import { HttpRenderService, InspectionPool, JobRunner, servicesFolder, type MeasureResult } from '@mint-tally/engine';
import { Farm, serveFarm } from '@mint-tally/standin-farm';
import { createShot, ensureProject, findJob, newestResult, requestJob, saveBrief, type Database } from '@mint-tally/store';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { findFreePort } from '../src/index.ts';
import { testConfig } from '../../../tests/support/config.ts';
import { makeDatabase } from '../../../tests/support/database.ts';
import { pngBytes } from '../../../tests/support/frames.ts';
import { endAll } from '../../../tests/support/ending.ts';

type Source = Extract<JobRequest, { kind: 'measure' }>['source'];

const token = 'a token for this test';
let top: string;
let database: Database;
let service: Awaited<ReturnType<typeof serveFarm>>;
let pool: InspectionPool;
let runner: JobRunner;
let shot: number;

beforeAll(async () => {
  top = realpathSync(mkdtempSync(path.join(os.tmpdir(), 'mint-measure-')));
  mkdirSync(path.join(top, 'data', 'tests'), { recursive: true });
  database = await makeDatabase();
  const farm = new Farm({ workerFile: path.join(servicesFolder(), 'render-worker.js'), threads: 2, machines: [{ name: 'bowline', speed: 1 }] });
  service = await serveFarm(farm, { token, folders: [top], port: 0 });
  const config = testConfig(top, [{ name: 'shots', writable: true }]);
  pool = new InspectionPool(1);
  const services = [
    new HttpRenderService({ name: 'stand-in farm', url: service.url, token }),
    new HttpRenderService({ name: 'nobody', url: `http://127.0.0.1:${await findFreePort()}`, token }),
  ];
  runner = new JobRunner({ database, config, pool, services }, () => undefined);
  await runner.start();
  const projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  shot = await createShot(database, { projectId, name: 'orr_010', note: '', root: 'shots', folder: '' }, 'ada');
  const pass = { name: 'beauty', role: 'beauty', pattern: 'beauty/orr_010_beauty.####.exr', channels: ['R', 'G', 'B', 'A'], depth: 'half' };
  await database.transaction((inside) =>
    saveBrief(inside, shot, parseBrief({ shot: 'orr_010', range: '1001-1024', resolution: [128, 72], passes: [pass] }), 'ada'),
  );
});
afterAll(() => endAll({ runner, pool, service, database, top }));

async function measure(source: Source): Promise<{ result: MeasureResult } | { error: string }> {
  const id = await requestJob(database, shot, { kind: 'measure', source }, 'ada');
  for (;;) {
    const job = await findJob(database, id);
    if (job?.state === 'failed') return { error: `${job.error!.message} ${job.error!.remedy}` };
    if (job?.state === 'done') return { result: (await newestResult(database, shot, 'measure'))!.result as MeasureResult };
    await sleep(25);
  }
}

async function measured(source: Source): Promise<MeasureResult> {
  const outcome = await measure(source);
  if ('error' in outcome) throw new Error(outcome.error);
  return outcome.result;
}

const onFarm = (samples: number[]): Source => ({ from: 'service', service: 'stand-in farm', frame: 1007, samples });

describe('test frames', () => {
  it('made by the farm predict noise and time of a sample count that the fit did not see', async () => {
    const fitted = await measured(onFarm([4, 16, 64]));
    expect(fitted.tests.map(({ samples }) => samples)).toEqual([4, 16, 64]);
    expect(fitted.used).toHaveLength(6);
    expect(fitted.left).toEqual([]);
    expect(fitted.seeds).toBe('independent');
    expect(fitted.bytesPerPixel).toBeGreaterThan(1);
    const [noise, time] = [fitNoise(fitted.tests)!, fitTime(fitted.tests)!];
    const unseen = await measured(onFarm([9, 36]));
    for (const test of unseen.tests) {
      expect(noiseAt(noise, test.samples) / test.noise!).toBeGreaterThan(0.7);
      expect(noiseAt(noise, test.samples) / test.noise!).toBeLessThan(1.4);
      expect(test.seconds).toBeGreaterThan(0);
    }
    // How long a render takes depends on what else this computer does; how well times are fitted is tested with times that are given.
    expect(secondsAt(time, 0)).toBeGreaterThanOrEqual(0);
    expect(secondsAt(time, 36)).toBeGreaterThan(secondsAt(time, 9));
    expect(readdirSync(path.join(top, 'data/tests'))).toEqual([]);
  });

  it('in a folder are read from their own metadata', async () => {
    // The farm's own files, kept: each names its samples and its time.
    const folder = path.join(top, 'shots', 'kept');
    const address = new HttpRenderService({ name: 'farm', url: service.url, token });
    const passes = JSON.stringify([{ name: 'beauty', pattern: 'BASE.####.exr' }]);
    for (const [samples, seed] of [
      [4, 1],
      [16, 2],
      [36, 3],
    ]) {
      const name = `s${samples}`;
      await address.takeTask(name, {
        folder,
        machine: null,
        frames: [1007],
        priority: 0,
        command: [
          'orrery',
          '--shot=orr_010',
          '--range=1001-1024',
          '--size=96x54',
          `--samples=${samples}`,
          `--seed=${seed}`,
          `--passes=${passes.replace('BASE', name).replace(/[{}]/g, '$&$&')}`,
        ],
      });
      while ((await address.status(name, 0))?.state !== 'done') await sleep(25);
    }
    writeFileSync(path.join(folder, 'notes.txt'), 'no picture');
    writeFileSync(path.join(folder, 'other.png'), pngBytes());
    const { tests, left, used } = await measured({ from: 'folder', root: 'shots', folder: 'kept' });
    expect(tests.map(({ samples }) => samples)).toEqual([4, 16, 36]);
    expect(tests.every(({ noise, seconds }) => noise! > 0 && seconds! > 0)).toBe(true);
    expect(tests[0].seconds! * 9).toBeCloseTo(tests[2].seconds!, 0);
    expect(used.map(({ name }) => name)).toEqual(['s16.1007.exr', 's36.1007.exr', 's4.1007.exr']);
    expect(left).toEqual([{ name: 'other.png', why: expect.stringContaining('no number of samples') as string }]);
    // The same file once more says nothing new.
    copyFileSync(path.join(folder, 's4.1007.exr'), path.join(folder, 's4_again.1007.exr'));
    expect((await measured({ from: 'folder', root: 'shots', folder: 'kept' })).tests[0].noise).toBeCloseTo(tests[0].noise!, 2);
  });

  it('are asked for in vain, in words', async () => {
    mkdirSync(path.join(top, 'shots', 'empty'));
    expect(await measure({ from: 'folder', root: 'shots', folder: 'empty' })).toEqual({
      error: expect.stringContaining('No file there is a test frame.') as string,
    });
    expect(await measure({ from: 'folder', root: 'shots', folder: '../..' })).toEqual({ error: expect.stringContaining('is not a path inside') as string });
    expect(await measure({ from: 'service', service: 'nobody', frame: 1, samples: [1, 4] })).toEqual({
      error: expect.stringMatching(/nobody cannot be reached \(E/) as string,
    });
    expect(await measure({ from: 'service', service: 'splice', frame: 1, samples: [1, 4] })).toEqual({
      error: expect.stringContaining('no render service called splice') as string,
    });
  });
});
