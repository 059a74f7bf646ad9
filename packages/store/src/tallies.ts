import { tallySchema, type Tally } from '@mint-tally/core';
import type { Queryable } from './database.ts';

/** A finished count. */
export interface SavedTally {
  readonly id: number;
  readonly briefId: number;
  /** Version of the brief that it was held against. */
  readonly briefVersion: number;
  readonly tally: Tally;
  /** Every file in the folder, and their bytes. */
  readonly files: number;
  readonly bytes: number;
  readonly opened: number;
  readonly content: string;
  readonly countedAt: Date;
}

/** Counts kept of a shot, the newest; older ones make room unless a package was made from them. */
const KEPT = 20;

export async function saveTally(on: Queryable, shotId: number, saved: Omit<SavedTally, 'id' | 'countedAt' | 'briefVersion'>, actor: string): Promise<number> {
  const { insertedId } = await on.change(
    'INSERT INTO tallies (shot_id, brief_id, body, files, bytes, opened, content, counted_at, actor) VALUES (?, ?, ?, ?, ?, ?, ?, UTC_TIMESTAMP(3), ?)',
    [shotId, saved.briefId, JSON.stringify(saved.tally), saved.files, saved.bytes, saved.opened, saved.content, actor],
  );
  await on.change(
    `DELETE FROM tallies WHERE shot_id = ? AND id NOT IN (SELECT tally_id FROM packages WHERE shot_id = ?)
       AND id NOT IN (SELECT id FROM (SELECT id FROM tallies WHERE shot_id = ? ORDER BY id DESC LIMIT ${KEPT}) AS newest)`,
    [shotId, shotId, shotId],
  );
  return insertedId;
}

/** The number of the newest count of each of these shots that has one. */
export async function newestTallyIds(on: Queryable, shotIds: readonly number[]): Promise<{ shotId: number; tallyId: number }[]> {
  if (shotIds.length === 0) return [];
  const rows = await on.rows(`SELECT shot_id, MAX(id) AS id FROM tallies WHERE shot_id IN (${shotIds.map(() => '?').join()}) GROUP BY shot_id`, [...shotIds]);
  return rows.map((row) => ({ shotId: row.shot_id as number, tallyId: row.id as number }));
}

/** The newest count of a shot, or null before the first. */
export async function newestTally(on: Queryable, shotId: number): Promise<SavedTally | null> {
  const [row] = await on.rows(
    `SELECT tallies.id, brief_id, version, tallies.body, files, bytes, opened, content, counted_at
       FROM tallies JOIN briefs ON briefs.id = brief_id WHERE tallies.shot_id = ? ORDER BY tallies.id DESC LIMIT 1`,
    [shotId],
  );
  if (!row) return null;
  return {
    id: row.id,
    briefId: row.brief_id,
    briefVersion: row.version,
    tally: tallySchema.parse(JSON.parse(row.body)),
    files: row.files,
    bytes: row.bytes,
    opened: row.opened,
    content: row.content,
    countedAt: row.counted_at,
  };
}
