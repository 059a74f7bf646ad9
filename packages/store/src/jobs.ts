import { z } from 'zod';
import { isDuplicate, type Database, type Queryable } from './database.ts';

/** What a job is asked to do. */
export const jobRequestSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('count') }),
  z.object({
    kind: z.literal('measure'),
    source: z.discriminatedUnion('from', [
      /** Test frames that a render service makes for the purpose. */
      z.object({ from: z.literal('service'), service: z.string(), frame: z.number().int(), samples: z.array(z.number().int().positive()).min(2).max(8) }),
      /** Test frames that somebody rendered and put into a folder. */
      z.object({ from: z.literal('folder'), root: z.string(), folder: z.string() }),
    ]),
  }),
  z.object({ kind: z.literal('render'), batch: z.number().int().positive() }),
  z.object({ kind: z.literal('merge'), merge: z.number().int().positive(), action: z.enum(['preview', 'run', 'undo']) }),
  z.object({ kind: z.literal('package'), root: z.string(), folder: z.string(), person: z.string() }),
]);
export type JobRequest = z.output<typeof jobRequestSchema>;

const JOB_KINDS: readonly JobRequest['kind'][] = ['count', 'measure', 'render', 'merge', 'package'];

export const jobStates = ['queued', 'running', 'done', 'failed', 'cancelled'] as const;
export type JobState = (typeof jobStates)[number];

/** Why a job failed, in words for people. */
export const jobErrorSchema = z.object({ code: z.string(), message: z.string(), remedy: z.string() });
export type JobError = z.output<typeof jobErrorSchema>;

/** How far a job has come. */
export interface JobProgress {
  readonly phase: string;
  readonly done: number;
  readonly total: number;
  readonly bytesDone: number;
  readonly bytesTotal: number;
}

export interface Job {
  readonly id: number;
  readonly shotId: number;
  readonly request: JobRequest;
  readonly state: JobState;
  readonly cancelRequested: boolean;
  readonly error: JobError | null;
  readonly progress: (JobProgress & { readonly phaseSeconds: number }) | null;
  readonly actor: string;
}

/** How long an engine may be silent before another takes its job, in seconds. */
export const LEASE_SECONDS = 20;
/** A job that took down this many engines is given up. */
const MAXIMUM_ATTEMPTS = 3;

const JOB_COLUMNS = `jobs.id, shot_id, payload, state, cancel_requested, error, jobs.actor,
  phase, done, total, bytes_done, bytes_total,
  TIMESTAMPDIFF(MICROSECOND, phase_started_at, COALESCE(finished_at, UTC_TIMESTAMP(3))) / 1e6 AS phase_seconds`;
const JOB_TABLES = 'jobs LEFT JOIN job_progress ON job_progress.job_id = jobs.id';

function toJob(row: Record<string, unknown>): Job {
  return {
    id: row.id as number,
    shotId: row.shot_id as number,
    request: jobRequestSchema.parse(JSON.parse(row.payload as string)),
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
    actor: row.actor as string,
  };
}

/**
 * Asks for a job. While one of this kind waits or runs for the shot, that one is meant: its number
 * comes back and nothing is added.
 */
export async function requestJob(on: Queryable, shotId: number, request: JobRequest, actor: string): Promise<number> {
  const key = `${request.kind}:${shotId}`;
  for (;;) {
    const [active] = await on.rows('SELECT id FROM jobs WHERE active_key = ?', [key]);
    if (active) return active.id;
    try {
      const { insertedId } = await on.change(
        'INSERT INTO jobs (kind, shot_id, payload, active_key, created_at, actor) VALUES (?, ?, ?, ?, UTC_TIMESTAMP(3), ?)',
        [request.kind, shotId, JSON.stringify(request), key, actor],
      );
      return insertedId;
    } catch (thrown) {
      // Somebody asked for the same in this moment; look again.
      if (!isDuplicate(thrown)) throw thrown;
    }
  }
}

/**
 * Takes the oldest job that waits, or whose engine fell silent. Rows that another engine is just
 * taking are passed over.
 *
 * @param engineId of the engine that takes it
 * @param kinds that it takes now
 */
export async function leaseJob(database: Database, engineId: string, kinds: readonly JobRequest['kind'][] = JOB_KINDS): Promise<Job | null> {
  return database.transaction(async (inside) => {
    const [row] = await inside.rows(
      `SELECT id, attempts, cancel_requested FROM jobs
        WHERE (state = 'queued' OR (state = 'running' AND lease_until < UTC_TIMESTAMP(3))) AND kind IN (${kinds.map(() => '?').join()})
        ORDER BY id LIMIT 1 FOR UPDATE SKIP LOCKED`,
      [...kinds],
    );
    if (!row) return null;
    if (row.cancel_requested === 1) {
      await end(inside, row.id, 'cancelled', null, null);
      return null;
    }
    if (row.attempts >= MAXIMUM_ATTEMPTS) {
      const error: JobError = {
        code: 'engine-lost',
        message: `The engine stopped ${row.attempts} times while it worked on this.`,
        remedy: 'Look at the engine’s messages, then try again.',
      };
      await end(inside, row.id, 'failed', null, error);
      return null;
    }
    await inside.change(
      `UPDATE jobs SET state = 'running', lease_owner = ?, lease_until = UTC_TIMESTAMP(3) + INTERVAL ${LEASE_SECONDS} SECOND,
         attempts = attempts + 1, started_at = COALESCE(started_at, UTC_TIMESTAMP(3)) WHERE id = ?`,
      [engineId, row.id],
    );
    await inside.change('DELETE FROM job_progress WHERE job_id = ?', [row.id]);
    const [taken] = await inside.rows(`SELECT ${JOB_COLUMNS} FROM ${JOB_TABLES} WHERE jobs.id = ?`, [row.id]);
    return toJob(taken);
  });
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

async function end(on: Queryable, jobId: number, state: JobState, result: unknown, error: JobError | null): Promise<void> {
  await on.change(
    `UPDATE jobs SET state = ?, result = ?, error = ?, active_key = NULL, lease_owner = NULL, lease_until = NULL, finished_at = UTC_TIMESTAMP(3) WHERE id = ?`,
    [state, result === null ? null : JSON.stringify(result), error === null ? null : JSON.stringify(error), jobId],
  );
}

/**
 * Ends a job together with what it brought about: `work` runs in the same transaction, and only if
 * the engine still holds the job.
 *
 * @returns false when the job had been taken by another engine; then nothing was written
 */
export async function finishJob(
  database: Database,
  jobId: number,
  engineId: string,
  outcome: { state: 'done' | 'failed' | 'cancelled'; error?: JobError },
  work: (inside: Queryable) => Promise<unknown> = async () => null,
): Promise<boolean> {
  return database.transaction(async (inside) => {
    const [row] = await inside.rows("SELECT id FROM jobs WHERE id = ? AND lease_owner = ? AND state = 'running' FOR UPDATE", [jobId, engineId]);
    if (!row) return false;
    const result = await work(inside);
    await end(inside, jobId, outcome.state, result ?? null, outcome.error ?? null);
    return true;
  });
}

/** Gives a job back unfinished, for the next engine: this one is being stopped. */
export async function releaseJob(on: Queryable, jobId: number, engineId: string): Promise<void> {
  await on.change(
    "UPDATE jobs SET state = 'queued', lease_owner = NULL, lease_until = NULL, attempts = attempts - 1 WHERE id = ? AND lease_owner = ? AND state = 'running'",
    [jobId, engineId],
  );
}

/** Asks to stop a job. One that nobody has begun ends at once. */
export async function cancelJob(database: Database, jobId: number): Promise<void> {
  await database.transaction(async (inside) => {
    const [row] = await inside.rows('SELECT state FROM jobs WHERE id = ? FOR UPDATE', [jobId]);
    if (row?.state === 'queued') await end(inside, jobId, 'cancelled', null, null);
    else if (row?.state === 'running') await inside.change('UPDATE jobs SET cancel_requested = TRUE WHERE id = ?', [jobId]);
  });
}

export async function findJob(on: Queryable, jobId: number): Promise<Job | null> {
  const [row] = await on.rows(`SELECT ${JOB_COLUMNS} FROM ${JOB_TABLES} WHERE jobs.id = ?`, [jobId]);
  return row ? toJob(row) : null;
}

/** What the newest job of a kind that was done for a shot came to; null when there is none. */
export async function newestResult(on: Queryable, shotId: number, kind: JobRequest['kind']): Promise<{ jobId: number; result: unknown } | null> {
  const [row] = await on.rows("SELECT id, result FROM jobs WHERE shot_id = ? AND kind = ? AND state = 'done' ORDER BY id DESC LIMIT 1", [shotId, kind]);
  return row ? { jobId: row.id as number, result: row.result === null ? null : (JSON.parse(row.result as string) as unknown) } : null;
}

/** The newest job of each kind and shot: what runs, waits, or ended last. */
export async function listNewestJobs(on: Queryable): Promise<Job[]> {
  const rows = await on.rows(`SELECT ${JOB_COLUMNS} FROM ${JOB_TABLES} WHERE jobs.id IN (SELECT MAX(id) FROM jobs GROUP BY kind, shot_id) ORDER BY jobs.id`);
  return rows.map((row) => toJob(row));
}
