import type { LogLine } from '@mint-tally/core';
import type { Queryable } from './database.ts';

export const alarmKinds = ['bad-in-row', 'stuck', 'machine-down', 'service-lost', 'trouble'] as const;
export type AlarmKind = (typeof alarmKinds)[number];

export interface BatchAlarm {
  readonly id: number;
  readonly kind: AlarmKind;
  /** Empty when it concerns the whole service. */
  readonly machine: string;
  readonly message: string;
  readonly raisedAt: Date;
  /** When it was over; null while it stands. */
  readonly settledAt: Date | null;
}

/** Adds lines of a service's log; a line that is there already stays as it is. */
export async function addBatchLines(on: Queryable, batchId: number, taskId: string, lines: readonly LogLine[]): Promise<void> {
  await on.insertMany(
    'INSERT IGNORE INTO batch_lines (batch_id, task_id, number, machine, written_at, text) VALUES ?',
    lines.map(({ number, machine, at, text }) => [batchId, taskId, number, machine, new Date(at), text]),
  );
}

/** The number of the last line that is known of every task. */
export async function lastLines(on: Queryable, batchId: number): Promise<Map<string, number>> {
  const rows = await on.rows('SELECT task_id, MAX(number) AS number FROM batch_lines WHERE batch_id = ? GROUP BY task_id', [batchId]);
  return new Map(rows.map((row) => [row.task_id as string, row.number as number]));
}

export interface BatchLine {
  readonly machine: string;
  readonly at: Date;
  readonly text: string;
}

/** The newest lines of a batch's log, oldest first; of one machine where it is named. */
export async function listBatchLines(on: Queryable, batchId: number, machine: string | null, limit = 200): Promise<BatchLine[]> {
  const rows = await on.rows(
    'SELECT machine, written_at, text FROM batch_lines WHERE batch_id = ? AND (? IS NULL OR machine = ?) ORDER BY written_at DESC, number DESC LIMIT ?',
    [batchId, machine, machine, limit],
  );
  return rows.reverse().map((row) => ({ machine: row.machine as string, at: row.written_at as Date, text: row.text as string }));
}

/** Raises an alarm unless the same one stands already. */
export async function raiseAlarm(on: Queryable, batchId: number, kind: AlarmKind, machine: string, message: string): Promise<void> {
  await on.change(
    `INSERT INTO batch_alarms (batch_id, kind, machine, message, raised_at)
       SELECT ?, ?, ?, ?, UTC_TIMESTAMP(3) FROM DUAL
        WHERE NOT EXISTS (SELECT 1 FROM batch_alarms WHERE batch_id = ? AND kind = ? AND machine = ? AND settled_at IS NULL)`,
    [batchId, kind, machine, message.slice(0, 1000), batchId, kind, machine],
  );
}

/** What an alarm was about is over. */
export async function settleAlarm(on: Queryable, batchId: number, kind: AlarmKind, machine: string): Promise<void> {
  await on.change('UPDATE batch_alarms SET settled_at = UTC_TIMESTAMP(3) WHERE batch_id = ? AND kind = ? AND machine = ? AND settled_at IS NULL', [
    batchId,
    kind,
    machine,
  ]);
}

export async function listAlarms(on: Queryable, batchId: number): Promise<BatchAlarm[]> {
  const rows = await on.rows('SELECT id, kind, machine, message, raised_at, settled_at FROM batch_alarms WHERE batch_id = ? ORDER BY id DESC LIMIT 100', [
    batchId,
  ]);
  return rows.map((row) => ({
    id: row.id as number,
    kind: row.kind as AlarmKind,
    machine: row.machine as string,
    message: row.message as string,
    raisedAt: row.raised_at as Date,
    settledAt: row.settled_at as Date | null,
  }));
}
