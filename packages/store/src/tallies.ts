import { changesSchema, tallySchema, type Changes, type Tally } from '@mint-tally/core';
import type { Queryable, Transaction } from './database.ts';
import { readStored } from './stored.ts';

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
  /** Stands for what was listed; null for counts of earlier days. */
  readonly listing: string | null;
  /** What changed since the count before; null for a first one. */
  readonly changes: Changes | null;
  readonly countedAt: Date;
}

/** Counts kept of a shot, the newest; older ones make room unless a package was made from them. */
const KEPT = 20;

export async function saveTally(
  inside: Transaction,
  shotId: number,
  saved: Omit<SavedTally, 'id' | 'countedAt' | 'briefVersion'>,
  actor: string,
): Promise<number> {
  const { insertedId } = await inside.change(
    `INSERT INTO tallies (shot_id, brief_id, body, files, bytes, opened, content, listing, changes, counted_at, actor)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, UTC_TIMESTAMP(3), ?)`,
    [
      shotId,
      saved.briefId,
      JSON.stringify(saved.tally),
      saved.files,
      saved.bytes,
      saved.opened,
      saved.content,
      saved.listing,
      saved.changes && JSON.stringify(saved.changes),
      actor,
    ],
  );
  await inside.change(
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
    `SELECT tallies.id, brief_id, version, tallies.body, files, bytes, opened, content, listing, changes, counted_at
       FROM tallies JOIN briefs ON briefs.id = brief_id WHERE tallies.shot_id = ? ORDER BY tallies.id DESC LIMIT 1`,
    [shotId],
  );
  if (!row) return null;
  return {
    id: row.id,
    briefId: row.brief_id,
    briefVersion: row.version,
    tally: readStored(`Count ${row.id}`, () => tallySchema.parse(JSON.parse(row.body))),
    files: row.files,
    bytes: row.bytes,
    opened: row.opened,
    content: row.content,
    listing: row.listing,
    changes: row.changes === null ? null : changesSchema.parse(JSON.parse(row.changes)),
    countedAt: row.counted_at,
  };
}

/** What is shown of an earlier count. */
export interface CountInHistory {
  readonly id: number;
  readonly countedAt: Date;
  readonly actor: string;
  readonly briefVersion: number;
  readonly expected: number;
  readonly sound: number;
  readonly blockers: number;
  readonly findings: number;
  readonly changes: Changes | null;
}

/** The counts that are kept of a shot, the newest first. */
export async function listCounts(on: Queryable, shotId: number): Promise<CountInHistory[]> {
  const rows = await on.rows(
    `SELECT tallies.id, version, tallies.body, changes, counted_at, tallies.actor
       FROM tallies JOIN briefs ON briefs.id = brief_id WHERE tallies.shot_id = ? ORDER BY tallies.id DESC LIMIT ${KEPT}`,
    [shotId],
  );
  return rows.map((row) => {
    const { passes, findings } = readStored(`Count ${row.id}`, () => tallySchema.parse(JSON.parse(row.body)));
    return {
      id: row.id,
      countedAt: row.counted_at,
      actor: row.actor,
      briefVersion: row.version,
      expected: passes.reduce((sum, pass) => sum + pass.expected, 0),
      sound: passes.reduce((sum, pass) => sum + pass.sound, 0),
      blockers: findings.filter(({ severity }) => severity === 'blocker').length,
      findings: findings.length,
      changes: row.changes === null ? null : changesSchema.parse(JSON.parse(row.changes)),
    };
  });
}

/** What the counts of a shot after a moment found changed, one after the other. */
export async function listChangesAfter(on: Queryable, shotId: number, moment: Date): Promise<Changes[]> {
  const rows = await on.rows('SELECT changes FROM tallies WHERE shot_id = ? AND counted_at > ? AND changes IS NOT NULL ORDER BY id', [shotId, moment]);
  return rows.map((row) => changesSchema.parse(JSON.parse(row.changes as string)));
}
