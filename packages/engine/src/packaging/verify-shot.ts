import { MintError } from '@mint-tally/core';
import { findArrival, keepVerified, type Job } from '@mint-tally/store';
import { findRoot, resolveInside } from '../files/roots.ts';
import type { Commit, JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { receiptOf } from './receipt-of.ts';
import { verifyPackage } from './verify-package.ts';

type VerifyRequest = Extract<Job['request'], { kind: 'verify' }>;

/** Ends a verifying that somebody has stopped. */
class Stopped extends Error {}

/** Verifies the package that a shot was opened from. Gives what ends the job, or null when it was stopped. @throws MintError */
export async function verifyShot({ database, config, pool }: JobTools, control: JobControl): Promise<Commit | null> {
  const { person } = control.job.request as VerifyRequest;
  const { shotId } = control.job;
  const arrival = await findArrival(database, shotId);
  if (!arrival) throw new MintError('not-found', 'This shot was not opened from a package.');
  const folder = resolveInside(findRoot(config.roots, arrival.root), arrival.folder);
  const onProgress = (phase: 'verifying' | 'counting', done: number, total: number) => {
    if (control.stopReason !== null) throw new Stopped();
    control.report({ phase, done, total, bytesDone: 0, bytesTotal: 0 });
  };
  try {
    const receipt = receiptOf(await verifyPackage(folder, pool, onProgress), person, new Date());
    return async (inside) => {
      await keepVerified(inside, shotId, receipt);
      return { valid: receipt.valid, ready: receipt.ready };
    };
  } catch (thrown) {
    if (thrown instanceof Stopped) return null;
    throw thrown;
  }
}
