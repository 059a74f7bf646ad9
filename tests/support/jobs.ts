import { setTimeout as sleep } from 'node:timers/promises';
import { jobKinds } from '@mint-tally/core';
import { createShot, ensureProject, findJob, leaseJob, type Database, type Job, type Takes } from '@mint-tally/store';

/** Three shots that jobs can be asked for. */
export async function makeShots(database: Database): Promise<number[]> {
  const projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  const shots: number[] = [];
  for (const name of ['a', 'b', 'c']) shots.push(await createShot(database, { projectId, name, note: '', root: 'demo', folder: name }, 'ada'));
  return shots;
}

/** Takes a job as an engine does that has nothing else to do; null when there is none, or it ended at once. */
export async function takeJob(database: Database, engine: string, takes: Partial<Takes> = {}): Promise<Job | null> {
  const lease = await leaseJob(database, engine, { kinds: jobKinds, held: [], alone: true, ...takes });
  return lease !== null && typeof lease === 'object' ? lease.job : null;
}

/** Waits until a job has ended, in whatever way. */
export async function settleJob(database: Database, jobId: number): Promise<Job> {
  for (let i = 0; i < 2400; i++) {
    const job = await findJob(database, jobId);
    if (job && job.state !== 'queued' && job.state !== 'running') return job;
    await sleep(25);
  }
  throw new Error(`job ${jobId} does not end`);
}
