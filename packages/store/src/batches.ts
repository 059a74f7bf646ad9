import { FrameSet, type Coming } from '@mint-tally/core';
import * as z from 'zod';
import { isDuplicate, StoreError, type Database, type Queryable, type Transaction } from './database.ts';
import { readStored } from './stored.ts';

/** How a batch is to behave. */
export const batchSettingsSchema = z.object({
  priority: z.number().int().min(-1000).max(1000).default(0),
  /** Bad frames of one machine in a row that raise an alarm. */
  badInRow: z.number().int().min(1).max(1000).default(3),
  /** Whether that alarm also takes the machine out. */
  stopBadMachine: z.boolean().default(true),
  /** Passes that are rendered; all when there are none. */
  passes: z.array(z.string()).default([]),
  /** Machines that were taken out; their frames go to the others. */
  out: z.array(z.string()).default([]),
  /** Frames that a service is given at a time, a machine. */
  chunk: z.number().int().min(1).max(10_000).default(8),
});
export type BatchSettings = z.output<typeof batchSettingsSchema>;

export const batchWishes = ['run', 'pause', 'stop-now', 'stop-after-frame'] as const;
export type BatchWish = (typeof batchWishes)[number];
export const batchOutcomes = ['done', 'stopped', 'failed'] as const;
export type BatchOutcome = (typeof batchOutcomes)[number];

export interface Batch {
  readonly id: number;
  readonly shotId: number;
  readonly briefId: number;
  /** Null when the folder is only watched. */
  readonly service: string | null;
  readonly command: readonly string[];
  readonly settings: BatchSettings;
  readonly wanted: BatchWish;
  /** Null while it goes on. */
  readonly outcome: BatchOutcome | null;
  readonly createdAt: Date;
  readonly endedAt: Date | null;
  readonly actor: string;
}

export const batchFrameStates = ['waiting', 'rendering', 'done', 'failed', 'stopped'] as const;
export type BatchFrameState = (typeof batchFrameStates)[number];

/** A frame of a batch. */
export interface BatchFrame {
  readonly frame: number;
  readonly machine: string;
  readonly position: number;
  readonly taskId: string | null;
  readonly state: BatchFrameState;
  readonly seconds: number | null;
  readonly changedAt: Date | null;
  readonly verdict: 'sound' | 'bad' | null;
  readonly says: string | null;
}

/** Raised when a shot has a batch already. */
export class BatchRunningError extends StoreError {
  constructor() {
    super('The shot has a batch already.', { remedy: 'Stop it first, or let it end.' });
  }
}

const commandSchema = z.array(z.string());

function toBatch(row: Record<string, unknown>): Batch {
  return {
    id: row.id as number,
    shotId: row.shot_id as number,
    briefId: row.brief_id as number,
    service: row.service as string | null,
    command: readStored(`Batch ${row.id as number}`, () => commandSchema.parse(JSON.parse(row.command as string))),
    settings: readStored(`Batch ${row.id as number}`, () => batchSettingsSchema.parse(JSON.parse(row.settings as string))),
    wanted: row.wanted as BatchWish,
    outcome: row.outcome as BatchOutcome | null,
    createdAt: row.created_at as Date,
    endedAt: row.ended_at as Date | null,
    actor: row.actor as string,
  };
}

const BATCH_COLUMNS = 'id, shot_id, brief_id, service, command, settings, wanted, outcome, created_at, ended_at, actor';

/**
 * Writes a batch down; it begins when a job for it is asked for. Call it inside the transaction
 * that also asks for that job.
 *
 * @throws BatchRunningError
 */
export async function createBatch(
  inside: Transaction,
  batch: Pick<Batch, 'shotId' | 'briefId' | 'service' | 'command' | 'settings'>,
  shares: readonly { readonly machine: string; readonly frames: readonly number[] }[],
  actor: string,
): Promise<number> {
  try {
    const { insertedId } = await inside.change(
      `INSERT INTO batches (shot_id, brief_id, service, command, settings, active_shot, created_at, actor) VALUES (?, ?, ?, ?, ?, ?, UTC_TIMESTAMP(3), ?)`,
      [batch.shotId, batch.briefId, batch.service, JSON.stringify(batch.command), JSON.stringify(batch.settings), batch.shotId, actor],
    );
    const rows = shares.flatMap(({ machine, frames }) => frames.map((frame, position) => [insertedId, frame, machine, position]));
    for (let start = 0; start < rows.length; start += 5000) {
      await inside.insertMany('INSERT INTO batch_frames (batch_id, frame, machine, position) VALUES ?', rows.slice(start, start + 5000));
    }
    return insertedId;
  } catch (thrown) {
    if (isDuplicate(thrown)) throw new BatchRunningError();
    throw thrown;
  }
}

export async function findBatch(on: Queryable, id: number): Promise<Batch | null> {
  const [row] = await on.rows(`SELECT ${BATCH_COLUMNS} FROM batches WHERE id = ?`, [id]);
  return row ? toBatch(row) : null;
}

/** The newest batch of a shot: what goes on, or what went on last. */
export async function newestBatch(on: Queryable, shotId: number): Promise<Batch | null> {
  const [row] = await on.rows(`SELECT ${BATCH_COLUMNS} FROM batches WHERE shot_id = ? ORDER BY id DESC LIMIT 1`, [shotId]);
  return row ? toBatch(row) : null;
}

/** The frames of a batch, machine by machine in their turn. */
export async function listBatchFrames(on: Queryable, batchId: number): Promise<BatchFrame[]> {
  const rows = await on.rows(
    'SELECT frame, machine, position, task_id, state, seconds, changed_at, verdict, says FROM batch_frames WHERE batch_id = ? ORDER BY machine, position',
    [batchId],
  );
  return rows.map((row) => ({
    frame: row.frame as number,
    machine: row.machine as string,
    position: row.position as number,
    taskId: row.task_id as string | null,
    state: row.state as BatchFrameState,
    seconds: row.seconds as number | null,
    changedAt: row.changed_at as Date | null,
    verdict: row.verdict as 'sound' | 'bad' | null,
    says: row.says as string | null,
  }));
}

/**
 * What each machine's frames of a shot took, in seconds: in the newest batch in which several machines finished some, since
 * frames of other shots, or of other settings, say nothing about who is faster; else in the newest with any.
 */
export async function secondsByMachine(on: Queryable, shotId: number, service: string): Promise<Map<string, number[]>> {
  const [batch] = await on.rows(
    `SELECT b.id FROM batches b JOIN batch_frames f ON f.batch_id = b.id
     WHERE b.shot_id = ? AND b.service = ? AND f.seconds IS NOT NULL
     GROUP BY b.id ORDER BY COUNT(DISTINCT f.machine) > 1 DESC, b.id DESC LIMIT 1`,
    [shotId, service],
  );
  const found = new Map<string, number[]>();
  if (!batch) return found;
  const rows = await on.rows('SELECT machine, seconds FROM batch_frames WHERE batch_id = ? AND seconds IS NOT NULL', [batch.id as number]);
  for (const { machine, seconds } of rows) found.set(machine as string, [...(found.get(machine as string) ?? []), seconds as number]);
  return found;
}

/** A file system's clock may lag behind the database's by so much, in milliseconds. */
const CLOCKS_DIFFER = 1000;

/** Frames of a shot that a batch is still to bring; null when none goes on. */
export async function comingFrames(on: Queryable, shotId: number): Promise<Coming | null> {
  const [batch] = await on.rows('SELECT id, service, settings, created_at FROM batches WHERE active_shot = ?', [shotId]);
  if (!batch) return null;
  const rows = await on.rows("SELECT frame FROM batch_frames WHERE batch_id = ? AND state IN ('waiting', 'rendering')", [batch.id as number]);
  const { passes } = batchSettingsSchema.parse(JSON.parse(batch.settings as string));
  return {
    frames: FrameSet.of(rows.map((row) => row.frame as number)),
    passes: passes.length > 0 ? new Set(passes) : null,
    replaces: batch.service !== null,
    since: (batch.created_at as Date).getTime() - CLOCKS_DIFFER,
  };
}

/** Notes which task at the service holds frames, before it is asked: a crash in between loses nothing. */
export async function assignTask(on: Queryable, batchId: number, taskId: string | null, frames: readonly number[]): Promise<void> {
  if (frames.length === 0) return;
  await on.change(
    `UPDATE batch_frames SET task_id = ?, state = 'waiting', changed_at = NULL WHERE batch_id = ? AND frame IN (${frames.map(() => '?').join()})`,
    [taskId, batchId, ...frames],
  );
}

/** Writes down what became of a frame. */
export async function updateBatchFrame(
  on: Queryable,
  batchId: number,
  frame: number,
  change: { readonly state: BatchFrameState; readonly machine: string | null; readonly seconds: number | null },
): Promise<void> {
  await on.change(
    'UPDATE batch_frames SET state = ?, machine = COALESCE(?, machine), seconds = ?, changed_at = UTC_TIMESTAMP(3) WHERE batch_id = ? AND frame = ?',
    [change.state, change.machine, change.seconds, batchId, frame],
  );
}

export async function judgeBatchFrame(on: Queryable, batchId: number, frame: number, verdict: 'sound' | 'bad', says: string): Promise<void> {
  await on.change('UPDATE batch_frames SET verdict = ?, says = ? WHERE batch_id = ? AND frame = ?', [verdict, says.slice(0, 1000), batchId, frame]);
}

/** Takes a machine out of a batch. */
export async function takeMachineOut(database: Database, batchId: number, machine: string): Promise<void> {
  await database.transaction(async (inside) => {
    const [row] = await inside.rows('SELECT settings FROM batches WHERE id = ? AND outcome IS NULL FOR UPDATE', [batchId]);
    if (!row) return;
    const settings = batchSettingsSchema.parse(JSON.parse(row.settings as string));
    if (settings.out.includes(machine)) return;
    await inside.change('UPDATE batches SET settings = ? WHERE id = ?', [JSON.stringify({ ...settings, out: [...settings.out, machine] }), batchId]);
  });
}

/** Gives frames that a machine has not done to other machines, behind their own. */
export async function giveFrames(
  inside: Transaction,
  batchId: number,
  shares: readonly { readonly machine: string; readonly frames: readonly number[] }[],
): Promise<void> {
  for (const { machine, frames } of shares) {
    const last = (
      await inside.rows('SELECT COALESCE(MAX(position), -1) AS position FROM batch_frames WHERE batch_id = ? AND machine = ?', [batchId, machine])
    )[0]!;
    for (const [i, frame] of frames.entries()) {
      await inside.change(
        "UPDATE batch_frames SET machine = ?, position = ?, task_id = NULL, state = 'waiting' WHERE batch_id = ? AND frame = ? AND state IN ('waiting', 'stopped')",
        [machine, Number(last.position) + 1 + i, batchId, frame],
      );
    }
  }
}

/** Batches that go on although no job is there to bring them about, as after an engine that fell three times. */
export async function listOrphanBatches(on: Queryable): Promise<{ id: number; shotId: number; actor: string }[]> {
  const rows = await on.rows(
    `SELECT id, shot_id, actor FROM batches WHERE active_shot IS NOT NULL AND NOT EXISTS
       (SELECT 1 FROM jobs WHERE jobs.shot_id = batches.shot_id AND kind = 'render' AND state IN ('queued', 'running'))`,
  );
  return rows.map((row) => ({ id: row.id as number, shotId: row.shot_id as number, actor: row.actor as string }));
}

/**
 * Writes down what somebody wants of a batch. A stop is final: two wishes may overtake each other on their way here, and
 * whoever has pressed stop must not see the machines go on.
 */
export async function wishBatch(on: Queryable, batchId: number, wanted: BatchWish): Promise<void> {
  await on.change(
    `UPDATE batches SET wanted = ? WHERE id = ? AND outcome IS NULL
      AND wanted <> 'stop-now' AND (wanted <> 'stop-after-frame' OR ? = 'stop-now')`,
    [wanted, batchId, wanted],
  );
}

/** Ends a batch: frames that had not come to an end are stopped. */
export async function endBatch(inside: Transaction, batchId: number, outcome: BatchOutcome): Promise<void> {
  await inside.change("UPDATE batch_frames SET state = 'stopped' WHERE batch_id = ? AND state IN ('waiting', 'rendering')", [batchId]);
  await inside.change('UPDATE batches SET outcome = ?, active_shot = NULL, ended_at = UTC_TIMESTAMP(3) WHERE id = ? AND outcome IS NULL', [outcome, batchId]);
  await inside.change('UPDATE batch_alarms SET settled_at = UTC_TIMESTAMP(3) WHERE batch_id = ? AND settled_at IS NULL', [batchId]);
}
