import { createHash } from 'node:crypto';
import {
  jobErrorSchema,
  jobKinds,
  jobRequestSchema,
  standsFor,
  type JobError,
  type JobKind,
  type JobProgress,
  type JobRequest,
  type JobState,
} from '@mint-tally/core';
import { ringBell } from './bell.ts';
import { StoreError, type Database, type Queryable, type Transaction } from './database.ts';
import { readStored } from './stored.ts';

export interface Job {
  readonly id: number;
  readonly shotId: number;
  readonly request: JobRequest;
  /** A job that its engine let go of waits again, and is begun before those behind it. */
  readonly state: JobState;
  readonly cancelRequested: boolean;
  readonly error: JobError | null;
  readonly progress: (JobProgress & { readonly phaseSeconds: number }) | null;
  /** Engines that fell while they worked on it, since it last came further. */
  readonly falls: number;
  /** When it ended; null while it has not. */
  readonly endedAt: Date | null;
  readonly actor: string;
}

/** How long an engine may be silent before another takes its job, in seconds. */
export const LEASE_SECONDS = 20;
/** A job that takes down this many engines, all but the first while it was alone, is not tried again. */
export const MOST_FALLS = 3;

const JOB_COLUMNS = `jobs.id, shot_id, payload, IF(state = 'running' AND lease_until IS NULL, 'queued', state) AS state, cancel_requested, error, falls, finished_at, jobs.actor,
  phase, done, total, bytes_done, bytes_total,
  TIMESTAMPDIFF(MICROSECOND, phase_started_at, COALESCE(finished_at, UTC_TIMESTAMP(3))) / 1e6 AS phase_seconds`;
const JOB_TABLES = 'jobs LEFT JOIN job_progress ON job_progress.job_id = jobs.id';

function toJob(row: Record<string, unknown>): Job {
  return {
    id: row.id as number,
    shotId: row.shot_id as number,
    request: readStored(`Job ${row.id as number}`, () => jobRequestSchema.parse(JSON.parse(row.payload as string))),
    state: row.state as JobState,
    cancelRequested: row.cancel_requested === 1,
    error: row.error === null ? null : jobErrorSchema.parse(JSON.parse(row.error as string)),
    progress:
      row.phase === null
        ? null
        : {
            phase: row.phase as string,
            done: row.done as number,
            total: row.total as number,
            bytesDone: row.bytes_done as number,
            bytesTotal: row.bytes_total as number,
            phaseSeconds: Number(row.phase_seconds),
          },
    falls: row.falls as number,
    endedAt: row.finished_at as Date | null,
    actor: row.actor as string,
  };
}

/** What a request stands for, as the key holds it: long words by their checksum. */
function subjectOf(request: JobRequest): string {
  const words = standsFor(request);
  return words.length <= 20 ? words : createHash('sha256').update(words).digest('hex');
}

/**
 * Asks for a job. One that runs is left alone: it may have read already what has changed since. One
 * that waits and stands for the same is carried on with this newer request. So nothing that is asked
 * for is lost, and of what stands for the same at most one waits.
 *
 * @returns the number of the job that will do it
 */
export async function requestJob(on: Queryable, shotId: number, request: JobRequest, actor: string): Promise<number> {
  const { insertedId } = await on.change(
    `INSERT INTO jobs (kind, subject, shot_id, payload, created_at, actor) VALUES (?, ?, ?, ?, UTC_TIMESTAMP(3), ?)
       ON DUPLICATE KEY UPDATE id = LAST_INSERT_ID(id), payload = VALUES(payload), actor = VALUES(actor)`,
    [request.kind, subjectOf(request), shotId, JSON.stringify(request), actor],
  );
  on.afterCommit(ringBell);
  return insertedId;
}

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

/**
 * Takes the oldest job that waits, or whose engine let go of it or fell silent; before all others one that
 * an engine fell with, since the others wait for it. Rows that another engine is just taking are passed
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
      ORDER BY falls > 0 DESC, id LIMIT 10`,
    [...kinds, ...held],
  );
  for (const { id } of candidates) {
    const lease = await takeOne(database, engineId, id as number, takes.alone);
    if (lease !== null) return lease;
  }
  return null;
}

const TAKEABLE = `(state = 'queued' OR lease_until IS NULL OR lease_until < UTC_TIMESTAMP(3))
  AND (state = 'running' OR NOT EXISTS (SELECT 1 FROM jobs AS other WHERE other.running_key = CONCAT(jobs.shot_id, ' ', jobs.kind)))`;

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
        await end(inside, row.id, 'cancelled', null, null);
        return 'settled';
      }
      if (falls > 0 && !alone) return 'suspect';
      await inside.change(
        `UPDATE jobs SET state = 'running', lease_owner = ?, lease_until = UTC_TIMESTAMP(3) + INTERVAL ${LEASE_SECONDS} SECOND,
           started_at = COALESCE(started_at, UTC_TIMESTAMP(3)), begun_revision = (SELECT revision FROM shots WHERE shots.id = shot_id) WHERE id = ?`,
        [engineId, row.id],
      );
      await inside.change('DELETE FROM job_progress WHERE job_id = ?', [row.id]);
      const [taken] = await inside.rows(`SELECT ${JOB_COLUMNS} FROM ${JOB_TABLES} WHERE jobs.id = ?`, [row.id]);
      const [job] = readable(taken);
      if (job) return { job };
      await end(inside, row.id, 'failed', null, { code: 'store', message: `Job ${row.id} cannot be read from the database.`, remedy: 'Ask for it again.' });
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
  const [row] = await inside.rows(
    'SELECT falls, fell_in, fell_with_left, phase, total - LEAST(done, total) AS left_now FROM jobs LEFT JOIN job_progress ON job_id = id WHERE id = ?',
    [jobId],
  );
  const hasProgress = row.phase !== null;
  const further = hasProgress && row.fell_in !== null && (row.phase !== row.fell_in || row.left_now < row.fell_with_left);
  const falls = further ? 1 : (row.falls as number) + 1;
  await inside.change(
    `UPDATE jobs SET falls = ?, lease_owner = NULL, lease_until = NULL, fell_in = COALESCE(?, fell_in), fell_with_left = IF(?, ?, fell_with_left) WHERE id = ?`,
    [falls, row.phase, hasProgress && (further || row.fell_in === null), row.left_now, jobId],
  );
  return falls;
}

/** Whether an engine still has its job, and whether somebody asked to stop it. */
export type LeaseState = 'held' | 'cancel' | 'lost';

/** Renews a lease. */
export async function renewLease(on: Queryable, jobId: number, engineId: string): Promise<LeaseState> {
  const { affected } = await on.change(
    `UPDATE jobs SET lease_until = UTC_TIMESTAMP(3) + INTERVAL ${LEASE_SECONDS} SECOND WHERE id = ? AND lease_owner = ? AND state = 'running'`,
    [jobId, engineId],
  );
  if (affected === 0) return 'lost';
  const [row] = await on.rows('SELECT cancel_requested FROM jobs WHERE id = ?', [jobId]);
  return row?.cancel_requested === 1 ? 'cancel' : 'held';
}

export async function writeProgress(on: Queryable, jobId: number, progress: JobProgress): Promise<void> {
  const { phase, done, total, bytesDone, bytesTotal } = progress;
  await on.change(
    `INSERT INTO job_progress (job_id, phase, done, total, bytes_done, bytes_total, phase_started_at, updated_at)
       VALUES (?, ?, ?, ?, ?, ?, UTC_TIMESTAMP(3), UTC_TIMESTAMP(3))
     ON DUPLICATE KEY UPDATE phase_started_at = IF(phase = VALUES(phase), phase_started_at, VALUES(phase_started_at)), phase = VALUES(phase),
       done = VALUES(done), total = VALUES(total), bytes_done = VALUES(bytes_done), bytes_total = VALUES(bytes_total), updated_at = VALUES(updated_at)`,
    [jobId, phase, done, total, bytesDone, bytesTotal],
  );
}

async function end(inside: Transaction, jobId: number, state: JobState, result: unknown, error: JobError | null): Promise<void> {
  await inside.change('UPDATE jobs SET state = ?, result = ?, error = ?, lease_owner = NULL, lease_until = NULL, finished_at = UTC_TIMESTAMP(3) WHERE id = ?', [
    state,
    result === null ? null : JSON.stringify(result),
    error === null ? null : JSON.stringify(error),
    jobId,
  ]);
  // What waited behind it can be taken now.
  inside.afterCommit(ringBell);
}

/** The job that waits behind a running one and says the same, when nothing has changed for the shot since that one began. */
async function findTwin(inside: Transaction, jobId: number): Promise<number | null> {
  const [twin] = await inside.rows(
    `SELECT waiting.id FROM jobs AS running JOIN shots ON shots.id = running.shot_id
       JOIN jobs AS waiting ON waiting.waiting_key = CONCAT(running.shot_id, ' ', running.kind, ' ', running.subject)
      WHERE running.id = ? AND waiting.payload = running.payload AND shots.revision = running.begun_revision`,
    [jobId],
  );
  return (twin?.id as number | undefined) ?? null;
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
    await end(inside, jobId, outcome.state, result, outcome.error ?? null);
    if (twin !== null) await end(inside, twin, 'done', result, null);
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

/** Asks to stop a job. One that nobody has begun, or that nobody holds, ends at once; so does one behind it that says the same. */
export async function cancelJob(database: Database, jobId: number): Promise<void> {
  await database.transaction(async (inside) => {
    const [row] = await inside.rows('SELECT state, lease_owner FROM jobs WHERE id = ? FOR UPDATE', [jobId]);
    const twin = row?.state === 'running' ? await findTwin(inside, jobId) : null;
    if (twin !== null) await end(inside, twin, 'cancelled', null, null);
    if (row?.state === 'queued' || (row?.state === 'running' && row.lease_owner === null)) await end(inside, jobId, 'cancelled', null, null);
    else if (row?.state === 'running') await inside.change('UPDATE jobs SET cancel_requested = TRUE WHERE id = ?', [jobId]);
  });
}

export async function findJob(on: Queryable, jobId: number): Promise<Job | null> {
  const [row] = await on.rows(`SELECT ${JOB_COLUMNS} FROM ${JOB_TABLES} WHERE jobs.id = ?`, [jobId]);
  return row ? toJob(row) : null;
}

/** What the newest job of a kind that was done for a shot came to; null when there is none. */
export async function newestResult(on: Queryable, shotId: number, kind: JobKind): Promise<{ jobId: number; result: unknown } | null> {
  const [row] = await on.rows("SELECT id, result FROM jobs WHERE shot_id = ? AND kind = ? AND state = 'done' ORDER BY id DESC LIMIT 1", [shotId, kind]);
  return row ? { jobId: row.id as number, result: row.result === null ? null : (JSON.parse(row.result as string) as unknown) } : null;
}

/** Of each kind and shot what runs, what waits, and what ended last; the newest last. */
export async function listNewestJobs(on: Queryable): Promise<Job[]> {
  // The key (shot, kind, state, id) is skipped through, whatever the number of jobs that ended long ago.
  const newest = await on.rows('SELECT shot_id, kind, state, MAX(id) AS id FROM jobs GROUP BY shot_id, kind, state');
  const ended = new Map<string, number>();
  for (const row of newest) {
    if (row.state === 'queued' || row.state === 'running') continue;
    const key = `${row.shot_id} ${row.kind}`;
    ended.set(key, Math.max(ended.get(key) ?? 0, row.id as number));
  }
  const ids = [...ended.values()];
  const rows = await on.rows(
    `SELECT ${JOB_COLUMNS} FROM ${JOB_TABLES} WHERE state IN ('queued', 'running')
     UNION ALL SELECT ${JOB_COLUMNS} FROM ${JOB_TABLES} WHERE jobs.id IN (${['0', ...ids.map(() => '?')].join()})
     ORDER BY id`,
    ids,
  );
  // Between the two statements a job may have ended: then it came with neither or with both.
  return [...new Map(rows.flatMap((row) => readable(row).map((job) => [job.id, job]))).values()];
}

/** A job of another version, which nothing here can do, is passed over where many are listed. */
function readable(row: Record<string, unknown>): Job[] {
  try {
    return [toJob(row)];
  } catch (thrown) {
    if (thrown instanceof StoreError) return [];
    throw thrown;
  }
}
