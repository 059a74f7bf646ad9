import { jobKinds, type JobError, type JobKind } from '@mint-tally/core';
import { ringBell } from './bell.ts';
import type { Database, Queryable, Transaction } from './database.ts';
import { endJob, findTwin, JOB_COLUMNS, JOB_TABLES, readable, type Job } from './job-rows.ts';

/** How long an engine may be silent before another takes its job, in seconds. */
export const LEASE_SECONDS = 20;
/** A job that takes down this many engines, all but the first while it was alone, is not tried again. */
export const MOST_FALLS = 3;

/** Which jobs an engine can take. */
export interface Takes {
  readonly kinds: readonly JobKind[];
  /** Jobs that it works on: what it holds it does not take again, whatever became of the lease. */
  readonly held: readonly number[];
  /** Whether nothing else runs in it. A job that an engine fell with is only done alone. */
  readonly alone: boolean;
}

/** Everything, by an engine that does nothing yet. */
const TAKES_ALL: Takes = { kinds: jobKinds, held: [], alone: true };

/** `suspect`: the next in turn is a job that an engine fell with, and this engine has others. `settled`: a job ended without being done; there may be more. */
export type Lease = { readonly job: Job } | 'suspect' | 'settled' | null;

/** What `givesWay` says of a request, of a row. */
const GIVES_WAY = `(kind = 'denoise' AND COALESCE(JSON_VALUE(payload, '$.purpose'), 'range') = 'range')`;

/**
 * Takes the oldest job that waits, or whose engine let go of it or fell silent; before all others one that
 * an engine fell with, since the others wait for it, and behind them those that give way. Rows that another engine is just taking are passed
 * over, and so is what waits behind a job of its kind and shot that runs.
 */
export async function leaseJob(database: Database, engineId: string, takes: Takes = TAKES_ALL): Promise<Lease> {
  const { kinds, held } = takes;
  if (kinds.length === 0) return null;
  // Looked up without locks, and only the one that is taken is locked: engines that look at the same time
  // do not stand in each other's way.
  const candidates = await database.rows(
    `SELECT id FROM jobs
      WHERE state IN ('queued', 'running') AND kind IN (${kinds.map(() => '?').join()}) AND id NOT IN (${['0', ...held.map(() => '?')].join()}) AND ${TAKEABLE}
      ORDER BY falls > 0 DESC, ${GIVES_WAY}, id LIMIT 10`,
    [...kinds, ...held],
  );
  for (const { id } of candidates) {
    const lease = await takeOne(database, engineId, id as number, takes.alone);
    if (lease !== null) return lease;
  }
  return null;
}

/**
 * What waits is taken in its order: while another engine is just taking the one before, that is passed
 * over by its lock, and what stands behind it must not slip by. Seats at one denoising wait for nobody.
 */
const TAKEABLE = `(state = 'queued' OR lease_until IS NULL OR lease_until < UTC_TIMESTAMP(3))
  AND (state = 'running' OR NOT EXISTS (
    SELECT 1 FROM jobs AS other WHERE other.shot_id = jobs.shot_id AND other.kind = jobs.kind
      AND (jobs.kind <> 'denoise' OR other.subject = jobs.subject)
      AND (other.state = 'running' OR (other.state = 'queued' AND other.id < jobs.id))))`;

/** Takes a job unless somebody else has it by now. */
async function takeOne(database: Database, engineId: string, jobId: number, alone: boolean): Promise<Lease> {
  try {
    return await database.transaction(async (inside) => {
      const [row] = await inside.rows(
        `SELECT id, falls, lease_owner, cancel_requested FROM jobs WHERE id = ? AND state IN ('queued', 'running') AND ${TAKEABLE} FOR UPDATE SKIP LOCKED`,
        [jobId],
      );
      if (!row) return null;
      const falls = row.lease_owner === null ? (row.falls as number) : await noteFall(inside, row.id);
      if (row.cancel_requested === 1) {
        await endJob(inside, row.id, 'cancelled', null, null);
        return 'settled';
      }
      if (falls > 0 && !alone) return 'suspect';
      await inside.change(
        `UPDATE jobs SET state = 'running', lease_owner = ?, lease_until = UTC_TIMESTAMP(3) + INTERVAL ${LEASE_SECONDS} SECOND,
           started_at = COALESCE(started_at, UTC_TIMESTAMP(3)), begun_revision = (SELECT revision FROM shots WHERE shots.id = shot_id) WHERE id = ?`,
        [engineId, row.id],
      );
      await inside.change('DELETE FROM job_progress WHERE job_id = ?', [row.id]);
      const taken = (await inside.rows(`SELECT ${JOB_COLUMNS} FROM ${JOB_TABLES} WHERE jobs.id = ?`, [row.id]))[0]!;
      const [job] = readable(taken);
      if (job) return { job };
      await endJob(inside, row.id, 'failed', null, { code: 'store', message: `Job ${row.id} cannot be read from the database.`, remedy: 'Ask for it again.' });
      return 'settled';
    });
  } catch (thrown) {
    // In this moment another engine began a job of the same kind and shot.
    if ((thrown as { code?: string }).code === 'ER_DUP_ENTRY') return null;
    throw thrown;
  }
}

/**
 * Notes that an engine fell while it worked on a job, and takes the job from it. A job that had come
 * further than at the fall before is not to blame for that one: a machine that is switched off every
 * night must not end a long count.
 *
 * @returns how often in a row engines have fallen with it
 */
export async function noteFall(inside: Transaction, jobId: number): Promise<number> {
  const row = (
    await inside.rows(
      'SELECT falls, fell_in, fell_with_left, phase, total - LEAST(done, total) AS left_now FROM jobs LEFT JOIN job_progress ON job_id = id WHERE id = ?',
      [jobId],
    )
  )[0]!;
  const hasProgress = row.phase !== null;
  const further = hasProgress && row.fell_in !== null && (row.phase !== row.fell_in || row.left_now < row.fell_with_left);
  const falls = further ? 1 : (row.falls as number) + 1;
  await inside.change(
    `UPDATE jobs SET falls = ?, lease_owner = NULL, lease_until = NULL, fell_in = COALESCE(?, fell_in), fell_with_left = IF(?, ?, fell_with_left) WHERE id = ?`,
    [falls, row.phase, hasProgress && (further || row.fell_in === null), row.left_now, jobId],
  );
  return falls;
}

/** Whether an engine still has its job, and whether somebody asked to stop it, or it stands in another's way. */
export type LeaseState = 'held' | 'cancel' | 'yield' | 'lost';

/** Renews a lease. @param waitingFor kinds of jobs that wait for this one to give way; those that give way themselves do not count */
export async function renewLease(on: Queryable, jobId: number, engineId: string, waitingFor: readonly JobKind[] = []): Promise<LeaseState> {
  const { affected } = await on.change(
    `UPDATE jobs SET lease_until = UTC_TIMESTAMP(3) + INTERVAL ${LEASE_SECONDS} SECOND WHERE id = ? AND lease_owner = ? AND state = 'running'`,
    [jobId, engineId],
  );
  if (affected === 0) return 'lost';
  const [row] = await on.rows('SELECT cancel_requested FROM jobs WHERE id = ?', [jobId]);
  if (row?.cancel_requested === 1) return 'cancel';
  if (waitingFor.length === 0) return 'held';
  const [waiting] = await on.rows(
    `SELECT id FROM jobs WHERE state IN ('queued', 'running') AND kind IN (${waitingFor.map(() => '?').join()}) AND NOT ${GIVES_WAY} AND ${TAKEABLE} LIMIT 1`,
    [...waitingFor],
  );
  return waiting ? 'yield' : 'held';
}

/**
 * Ends a job together with what it brought about: `work` runs in the same transaction, and only if
 * the engine still holds the job. When it is done, so is one that waits, says the same, and for which
 * nothing has changed since this one began; but a count is done again, since files change unseen.
 *
 * @returns false when the job had been taken by another engine; then nothing was written
 */
export async function finishJob(
  database: Database,
  jobId: number,
  engineId: string,
  outcome: { state: 'done' | 'failed' | 'cancelled'; error?: JobError },
  work: (inside: Transaction) => Promise<unknown> = async () => null,
): Promise<boolean> {
  return database.transaction(async (inside) => {
    const [row] = await inside.rows("SELECT kind FROM jobs WHERE id = ? AND lease_owner = ? AND state = 'running' FOR UPDATE", [jobId, engineId]);
    if (!row) return false;
    const twin = outcome.state === 'done' && row.kind !== 'count' ? await findTwin(inside, jobId) : null;
    const result = (await work(inside)) ?? null;
    await endJob(inside, jobId, outcome.state, result, outcome.error ?? null);
    if (twin !== null) await endJob(inside, twin, 'done', result, null);
    return true;
  });
}

/**
 * Writes something down in the middle of a job, only if the engine still holds it.
 *
 * @returns null when the job had been taken by another engine; then nothing was written
 */
export async function whileHeld<Result>(
  database: Database,
  jobId: number,
  engineId: string,
  work: (inside: Transaction) => Promise<Result>,
): Promise<Result | null> {
  return database.transaction(async (inside) => {
    const [row] = await inside.rows("SELECT id FROM jobs WHERE id = ? AND lease_owner = ? AND state = 'running' FOR UPDATE", [jobId, engineId]);
    return row ? work(inside) : null;
  });
}

/** Since when an engine has been measuring a shot; null while none is. */
export async function assayUnderWay(on: Queryable, shotId: number): Promise<Date | null> {
  const [row] = await on.rows("SELECT started_at FROM jobs WHERE shot_id = ? AND kind = 'assay' AND state = 'running' AND lease_until >= UTC_TIMESTAMP(3)", [
    shotId,
  ]);
  return (row?.started_at as Date | undefined) ?? null;
}

/** Which of these jobs run, or wait to be gone on with. */
export async function runningAmong(on: Queryable, jobIds: readonly number[]): Promise<Set<number>> {
  if (jobIds.length === 0) return new Set();
  const rows = await on.rows(`SELECT id FROM jobs WHERE state = 'running' AND id IN (${jobIds.map(() => '?').join()})`, [...jobIds]);
  return new Set(rows.map((row) => row.id as number));
}

/** Gives a job back unfinished, for the next engine: this one is being stopped. */
export async function releaseJob(on: Queryable, jobId: number, engineId: string): Promise<void> {
  await on.change("UPDATE jobs SET lease_owner = NULL, lease_until = NULL WHERE id = ? AND lease_owner = ? AND state = 'running'", [jobId, engineId]);
  on.afterCommit(ringBell);
}
