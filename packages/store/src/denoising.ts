import { denoiseFiguresSchema, denoiseRequestSchema, parseFrameRange, type DenoiseFigures, type DenoiseRequest, type FrameSet } from '@mint-tally/core';
import type { Queryable, Transaction } from './database.ts';
import { readStored } from './stored.ts';

export type DenoiseOutcome = 'done' | 'stopped';

/** A part of a run: some frames at one strength. */
export interface DenoisePart {
  readonly part: number;
  /** Place in the request's strengths. */
  readonly strength: number;
  readonly frames: FrameSet;
  /** What it came to; null until it is done. */
  readonly figures: DenoiseFigures | null;
  /** What it had come to when it was interrupted; null where it was not, or nobody could note it. */
  readonly soFar: DenoiseFigures | null;
}

/** A test of the filters, or a range that they go along. */
export interface DenoiseRun {
  readonly id: number;
  readonly shotId: number;
  readonly request: DenoiseRequest;
  /** Null while something is left to do, whether anybody does it or not. */
  readonly outcome: DenoiseOutcome | null;
  readonly createdAt: Date;
  readonly actor: string;
  readonly parts: readonly DenoisePart[];
}

const COLUMNS = 'id, shot_id, request, outcome, created_at, actor';

async function toRun(on: Queryable, row: Record<string, unknown>): Promise<DenoiseRun> {
  const id = row.id as number;
  const parts = await on.rows('SELECT part, strength, frames, figures, so_far FROM denoise_parts WHERE run_id = ? ORDER BY part', [id]);
  return {
    id,
    shotId: row.shot_id as number,
    request: readStored(`Denoising ${id}`, () => denoiseRequestSchema.parse(JSON.parse(row.request as string))),
    outcome: row.outcome as DenoiseOutcome | null,
    createdAt: row.created_at as Date,
    actor: row.actor as string,
    parts: parts.map((part) => toPart(id, part)),
  };
}

function toPart(id: number, row: Record<string, unknown>): DenoisePart {
  return {
    part: row.part as number,
    strength: row.strength as number,
    frames: readStored(`Denoising ${id}`, () => parseFrameRange(row.frames as string)),
    figures: readFigures(id, row.figures as string | null),
    soFar: readFigures(id, row.so_far as string | null),
  };
}

function readFigures(id: number, text: string | null): DenoiseFigures | null {
  return text === null ? null : readStored(`The figures of denoising ${id}`, () => denoiseFiguresSchema.parse(JSON.parse(text)));
}

/** Writes a run down with its parts; nobody works on it before it is asked for. */
export async function createDenoise(
  inside: Transaction,
  shotId: number,
  request: DenoiseRequest,
  parts: readonly Pick<DenoisePart, 'strength' | 'frames'>[],
  actor: string,
): Promise<number> {
  const { insertedId } = await inside.change('INSERT INTO denoise_runs (shot_id, purpose, request, created_at, actor) VALUES (?, ?, ?, UTC_TIMESTAMP(3), ?)', [
    shotId,
    request.purpose,
    JSON.stringify(request),
    actor,
  ]);
  await inside.insertMany(
    'INSERT INTO denoise_parts (run_id, part, strength, frames, frame_count) VALUES ?',
    parts.map(({ strength, frames }, part) => [insertedId, part, strength, frames.toString(), frames.size]),
  );
  return insertedId;
}

export async function findDenoise(on: Queryable, id: number): Promise<DenoiseRun | null> {
  const [row] = await on.rows(`SELECT ${COLUMNS} FROM denoise_runs WHERE id = ?`, [id]);
  return row ? toRun(on, row) : null;
}

/** The newest runs of a shot, the newest first. */
export async function newestDenoises(on: Queryable, shotId: number, purpose: DenoiseRequest['purpose'], most: number): Promise<DenoiseRun[]> {
  const rows = await on.rows(`SELECT ${COLUMNS} FROM denoise_runs WHERE shot_id = ? AND purpose = ? ORDER BY id DESC LIMIT ?`, [shotId, purpose, most]);
  return Promise.all(rows.map((row) => toRun(on, row)));
}

/** Takes the next part of a run that nobody works on, first of all the one that this job had before; null when there is none. */
export async function claimDenoisePart(inside: Transaction, runId: number, jobId: number): Promise<DenoisePart | null> {
  const [run] = await inside.rows('SELECT outcome FROM denoise_runs WHERE id = ? FOR UPDATE', [runId]);
  if (!run || run.outcome !== null) return null;
  const [row] = await inside.rows(
    `SELECT part, strength, frames, figures, so_far FROM denoise_parts LEFT JOIN jobs ON jobs.id = job_id AND jobs.state = 'running' AND jobs.id <> ?
      WHERE run_id = ? AND figures IS NULL AND jobs.id IS NULL ORDER BY (job_id <=> ?) DESC, part LIMIT 1`,
    [jobId, runId, jobId],
  );
  if (!row) return null;
  await inside.change('UPDATE denoise_parts SET job_id = ? WHERE run_id = ? AND part = ?', [jobId, runId, row.part as number]);
  return toPart(runId, row);
}

/** Notes what a part has come to that is interrupted. */
export async function interruptDenoisePart(on: Queryable, runId: number, part: number, figures: DenoiseFigures): Promise<void> {
  await on.change('UPDATE denoise_parts SET so_far = ? WHERE run_id = ? AND part = ?', [JSON.stringify(figures), runId, part]);
}

/** Notes what a part came to. @returns whether it was the last, so that the run is done */
export async function endDenoisePart(inside: Transaction, runId: number, part: number, figures: DenoiseFigures): Promise<boolean> {
  const [row] = await inside.rows('SELECT outcome FROM denoise_runs WHERE id = ? FOR UPDATE', [runId]);
  await inside.change('UPDATE denoise_parts SET figures = ? WHERE run_id = ? AND part = ?', [JSON.stringify(figures), runId, part]);
  const [left] = await inside.rows('SELECT COUNT(*) AS count FROM denoise_parts WHERE run_id = ? AND figures IS NULL', [runId]);
  const isDone = row?.outcome === null && Number(left!.count) === 0;
  if (isDone) await endDenoise(inside, runId, 'done');
  return isDone;
}

/** Ends a run. What it has written stands. */
export async function endDenoise(on: Queryable, id: number, outcome: DenoiseOutcome): Promise<void> {
  await on.change('UPDATE denoise_runs SET outcome = ?, ended_at = UTC_TIMESTAMP(3) WHERE id = ? AND outcome IS NULL', [outcome, id]);
}

/** Frames of a run that belong to parts which are done, and all of them. */
export async function denoiseProgress(on: Queryable, runId: number): Promise<{ done: number; total: number }> {
  const [row] = await on.rows(
    'SELECT COALESCE(SUM(IF(figures IS NULL, 0, frame_count)), 0) AS done, COALESCE(SUM(frame_count), 0) AS total FROM denoise_parts WHERE run_id = ?',
    [runId],
  );
  return { done: Number(row!.done), total: Number(row!.total) };
}

/** Tests whose pictures are kept: the newest few of each shot. */
export async function keptDenoiseTests(on: Queryable, each: number): Promise<Set<number>> {
  const rows = await on.rows(
    `SELECT id FROM (SELECT id, ROW_NUMBER() OVER (PARTITION BY shot_id ORDER BY id DESC) AS place FROM denoise_runs WHERE purpose = 'test') AS placed WHERE place <= ?`,
    [each],
  );
  return new Set(rows.map(({ id }) => id as number));
}
