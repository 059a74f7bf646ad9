import { jobKinds } from '@mint-tally/core';
import { leaseJob, type Database, type Job, type Takes } from '@mint-tally/store';

/** Takes a job as an engine does that has nothing else to do; null when there is none, or it ended at once. */
export async function takeJob(database: Database, engine: string, takes: Partial<Takes> = {}): Promise<Job | null> {
  const lease = await leaseJob(database, engine, { kinds: jobKinds, held: [], alone: true, ...takes });
  return lease !== null && typeof lease === 'object' ? lease.job : null;
}
