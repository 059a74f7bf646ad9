import { createHash } from 'node:crypto';
import { jobRequestSchema, standsFor, type JobAsk, type JobKind, type JobProgress, type JobRequest } from '@mint-tally/core';
import { ringBell } from './bell.ts';
import type { Database, Queryable } from './database.ts';
import { endJob, findTwin, JOB_COLUMNS, JOB_TABLES, readable, toJob, type Job } from './job-rows.ts';

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
export async function requestJob(on: Queryable, shotId: number, asked: JobAsk, actor: string): Promise<number> {
  const request = jobRequestSchema.parse(asked);
  const { insertedId } = await on.change(
    `INSERT INTO jobs (kind, subject, shot_id, payload, created_at, actor) VALUES (?, ?, ?, ?, UTC_TIMESTAMP(3), ?)
       ON DUPLICATE KEY UPDATE id = LAST_INSERT_ID(id), payload = VALUES(payload), actor = VALUES(actor)`,
    [request.kind, subjectOf(request), shotId, JSON.stringify(request), actor],
  );
  on.afterCommit(ringBell);
  return insertedId;
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

/** Asks to stop a job. One that nobody has begun, or that nobody holds, ends at once; so does one behind it that says the same. */
export async function cancelJob(database: Database, jobId: number): Promise<void> {
  await database.transaction(async (inside) => {
    const [row] = await inside.rows('SELECT state, lease_owner FROM jobs WHERE id = ? FOR UPDATE', [jobId]);
    const twin = row?.state === 'running' ? await findTwin(inside, jobId) : null;
    if (twin !== null) await endJob(inside, twin, 'cancelled', null, null);
    if (row?.state === 'queued' || (row?.state === 'running' && row.lease_owner === null)) await endJob(inside, jobId, 'cancelled', null, null);
    else if (row?.state === 'running') await inside.change('UPDATE jobs SET cancel_requested = TRUE WHERE id = ?', [jobId]);
  });
}

export async function findJob(on: Queryable, jobId: number): Promise<Job | null> {
  const [row] = await on.rows(`SELECT ${JOB_COLUMNS} FROM ${JOB_TABLES} WHERE jobs.id = ?`, [jobId]);
  return row ? toJob(row) : null;
}

/** What a job came to; null while it is not done, and where it came to nothing that is kept. */
export async function readResult(on: Queryable, jobId: number): Promise<unknown> {
  const [row] = await on.rows('SELECT result FROM jobs WHERE id = ?', [jobId]);
  return row?.result == null ? null : JSON.parse(row.result as string);
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
