import { mendStepsSchema, type MendStep } from '@mint-tally/core';
import type { Queryable } from './database.ts';
import { readStored } from './stored.ts';

/** A mend as the ledger has it. */
export interface LedgerMend {
  readonly id: number;
  readonly journal: string;
  readonly says: string;
  readonly files: number;
  readonly at: Date;
  readonly actor: string;
  /** When it was taken back, and by whom; null while it stands. */
  readonly undoneAt: Date | null;
  readonly undoneBy: string | null;
}

/** Notes a mend that was carried out; one that stands there already is left. */
export async function noteMend(
  on: Queryable,
  shotId: number,
  mend: Pick<LedgerMend, 'journal' | 'says'> & { readonly steps: readonly MendStep[] },
  actor: string,
): Promise<void> {
  const [there] = await on.rows('SELECT id FROM mends WHERE shot_id = ? AND journal = ? AND undone_at IS NULL', [shotId, mend.journal]);
  if (there) return;
  await on.change('INSERT INTO mends (shot_id, journal, says, steps, step_count, applied_at, actor) VALUES (?, ?, ?, ?, ?, UTC_TIMESTAMP(3), ?)', [
    ...[shotId, mend.journal, mend.says, JSON.stringify({ steps: mend.steps }), mend.steps.length],
    actor,
  ]);
}

/** Notes that a mend was taken back. */
export async function noteMendUndone(on: Queryable, shotId: number, journal: string, actor: string): Promise<void> {
  await on.change('UPDATE mends SET undone_at = UTC_TIMESTAMP(3), undone_by = ? WHERE shot_id = ? AND journal = ? AND undone_at IS NULL', [
    actor,
    shotId,
    journal,
  ]);
}

/** The mends of a shot, the newest first. */
export async function listMends(on: Queryable, shotId: number, most: number): Promise<LedgerMend[]> {
  const rows = await on.rows(
    'SELECT id, journal, says, step_count, applied_at, actor, undone_at, undone_by FROM mends WHERE shot_id = ? ORDER BY id DESC LIMIT ?',
    [shotId, most],
  );
  return rows.map((row) => ({
    id: row.id as number,
    journal: row.journal as string,
    says: row.says as string,
    files: row.step_count as number,
    at: row.applied_at as Date,
    actor: row.actor as string,
    undoneAt: row.undone_at as Date | null,
    undoneBy: row.undone_by as string | null,
  }));
}

/** What was done to every file; null when there is no such mend of the shot. */
export async function readMendSteps(on: Queryable, shotId: number, id: number): Promise<readonly MendStep[] | null> {
  const [row] = await on.rows('SELECT steps FROM mends WHERE shot_id = ? AND id = ?', [shotId, id]);
  return row ? readStored(`Mend ${id}`, () => mendStepsSchema.parse(JSON.parse(row.steps as string)).steps) : null;
}
