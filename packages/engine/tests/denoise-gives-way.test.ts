import { setTimeout as sleep } from 'node:timers/promises';
import { cancelJob, findDenoise, findJob } from '@mint-tally/store';
import { describe, expect, it } from 'vitest';
import {
  begin,
  beginDenoising,
  database,
  FRAMES,
  filesIn,
  makeShot,
  namesOf,
  reports,
  resultOf,
  settle,
  testOf,
  usual,
} from '../../../tests/support/denoising.ts';

beginDenoising();

describe('a range', () => {
  /**
   * A range that has begun, and what was asked for meanwhile, at its end. Small frames may all be written before the range
   * hears of it: then another is begun.
   */
  async function meanwhile(name: string, ask: (shot: number) => Promise<number>) {
    for (let attempt = 1; attempt <= 8; attempt++) {
      const { id, folder } = await makeShot(`${name}-${attempt}`);
      const { run, jobs } = await begin(id, usual, { length: 4 });
      for (let i = 0; i < 2000 && (await findJob(database, jobs[0]!))!.state === 'queued'; i++) await sleep(5);
      const asked = await ask(id);
      const { state } = await settle(asked);
      const there = filesIn(resultOf(folder)).length;
      if (there < FRAMES) return { id, folder, run, job: jobs[0]!, state, there };
      await settle(jobs[0]!);
    }
    throw new Error('Every range was done before it heard of anything.');
  }

  it('lets a test go before it, and goes on', async () => {
    const { folder, run, job, state } = await meanwhile('tried', async (shot) => (await begin(shot, testOf([1], '1003'))).jobs[0]!);
    expect(state).toBe('done');
    expect(await settle(job)).toMatchObject({ state: 'done', error: null, falls: 0 });
    expect((await findDenoise(database, run))!.outcome).toBe('done');
    expect(filesIn(resultOf(folder))).toEqual(namesOf('beauty_denoised', usual.range));
  });

  it('that gave way is paused like any other', async () => {
    const { folder, run, job, there } = await meanwhile('stopped', async (shot) => {
      const { jobs } = await begin(shot, testOf([1], '1003-1010'));
      const own = await database.rows("SELECT id FROM jobs WHERE shot_id = ? AND kind = 'denoise' ORDER BY id LIMIT 1", [shot]);
      // While the test goes on the range lies there, held by nobody; or it is done, and there is nothing to stop.
      for (let i = 0; i < 500; i++) {
        const [range, test] = [(await findJob(database, own[0]!.id as number))!, (await findJob(database, jobs[0]!))!];
        if (test.state === 'running' && range.state === 'queued') await cancelJob(database, range.id);
        if (range.state === 'done' || range.state === 'cancelled') break;
        await sleep(5);
      }
      return jobs[0]!;
    });
    expect((await findJob(database, job))!.state).toBe('cancelled');
    expect((await findDenoise(database, run))!.outcome).toBeNull();
    await sleep(300);
    expect(filesIn(resultOf(folder))).toHaveLength(there);
    expect(reports).toEqual([]);
  });
});
