import { jobErrorSchema, jobRequestSchema, type JobError, type JobProgress, type JobRequest, type JobState } from '@mint-tally/core';
import { ringBell } from './bell.ts';
import { StoreError, type Transaction } from './database.ts';
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

/** What is read of a job, and from where. */
export const JOB_COLUMNS = `jobs.id, shot_id, payload, IF(state = 'running' AND lease_until IS NULL, 'queued', state) AS state, cancel_requested, error, falls, finished_at, jobs.actor,
  phase, done, total, bytes_done, bytes_total,
  TIMESTAMPDIFF(MICROSECOND, phase_started_at, COALESCE(finished_at, UTC_TIMESTAMP(3))) / 1e6 AS phase_seconds`;
export const JOB_TABLES = 'jobs LEFT JOIN job_progress ON job_progress.job_id = jobs.id';

/** @throws StoreError when it is of another version */
export function toJob(row: Record<string, unknown>): Job {
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

/** A job of another version, which nothing here can do, is passed over where many are listed. */
export function readable(row: Record<string, unknown>): Job[] {
  try {
    return [toJob(row)];
  } catch (thrown) {
    if (thrown instanceof StoreError) return [];
    throw thrown;
  }
}

/** Ends a job, in whatever way. */
export async function endJob(inside: Transaction, jobId: number, state: JobState, result: unknown, error: JobError | null): Promise<void> {
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
export async function findTwin(inside: Transaction, jobId: number): Promise<number | null> {
  const [twin] = await inside.rows(
    `SELECT waiting.id FROM jobs AS running JOIN shots ON shots.id = running.shot_id
       JOIN jobs AS waiting ON waiting.waiting_key = CONCAT(running.shot_id, ' ', running.kind, ' ', running.subject)
      WHERE running.id = ? AND waiting.payload = running.payload AND shots.revision = running.begun_revision`,
    [jobId],
  );
  return (twin?.id as number | undefined) ?? null;
}
