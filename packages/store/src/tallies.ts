import { changesSchema, passTallySchema, type Changes, type Tally } from '@mint-tally/core';
import type { Queryable, Transaction } from './database.ts';
import { readStored } from './stored.ts';
import { readFindings, saveFindings } from './tally-findings.ts';

/** What a finished count came to, in sums. */
export interface TallySums {
  readonly expected: number;
  readonly sound: number;
  readonly blockers: number;
  readonly findings: number;
}

/** A finished count: when, of what, and its sums. What it found is read apart. */
export interface SavedCount extends TallySums {
  readonly id: number;
  readonly briefId: number;
  /** Version of the brief that it was held against. */
  readonly briefVersion: number;
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
  readonly actor: string;
}

/** A finished count with all that it found. */
export interface SavedTally extends SavedCount {
  readonly tally: Tally;
}

/** Counts kept of a shot, the newest; older ones make room unless a package was made from them. */
const KEPT = 20;

export async function saveTally(
  inside: Transaction,
  shotId: number,
  saved: Omit<SavedTally, 'id' | 'countedAt' | 'briefVersion' | 'actor' | keyof TallySums>,
  actor: string,
): Promise<number> {
  const { briefId, tally, files, bytes, opened, content, listing, changes } = saved;
  const { expected, sound, blockers, findings } = sumsOf(tally);
  const { insertedId } = await inside.change(
    `INSERT INTO tallies (shot_id, brief_id, ready, level, expected, sound, blockers, findings, files, bytes, opened, content, listing, changes, counted_at, actor)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, UTC_TIMESTAMP(3), ?)`,
    [
      ...[shotId, briefId, tally.ready, tally.level, expected, sound, blockers, findings],
      ...[files, bytes, opened, content, listing, changes && JSON.stringify(changes), actor],
    ],
  );
  await inside.insertMany(
    'INSERT INTO tally_passes (tally_id, place, name, expected, sound, missing, broken, unexpected) VALUES ?',
    tally.passes.map((pass, place) => [insertedId, place, pass.name, pass.expected, pass.sound, ...[pass.missing, pass.broken, pass.unexpected].map(String)]),
  );
  await saveFindings(inside, insertedId, tally.findings);
  await inside.change(
    `DELETE FROM tallies WHERE shot_id = ? AND id NOT IN (SELECT tally_id FROM packages WHERE shot_id = ?)
       AND id NOT IN (SELECT id FROM (SELECT id FROM tallies WHERE shot_id = ? ORDER BY id DESC LIMIT ${KEPT}) AS newest)`,
    [shotId, shotId, shotId],
  );
  return insertedId;
}

function sumsOf({ passes, findings }: Tally): TallySums {
  return {
    expected: passes.reduce((sum, pass) => sum + pass.expected, 0),
    sound: passes.reduce((sum, pass) => sum + pass.sound, 0),
    blockers: findings.filter(({ severity }) => severity === 'blocker').length,
    findings: findings.length,
  };
}

/** The number of the newest count of each of these shots that has one. */
export async function newestTallyIds(on: Queryable, shotIds: readonly number[]): Promise<{ shotId: number; tallyId: number }[]> {
  if (shotIds.length === 0) return [];
  const rows = await on.rows(`SELECT shot_id, MAX(id) AS id FROM tallies WHERE shot_id IN (${shotIds.map(() => '?').join()}) GROUP BY shot_id`, [...shotIds]);
  return rows.map((row) => ({ shotId: row.shot_id as number, tallyId: row.id as number }));
}

/** The newest count of a shot, or null before the first. */
export async function newestCount(on: Queryable, shotId: number): Promise<SavedCount | null> {
  const [newest] = await selectCounts(on, shotId, 1);
  return newest ?? null;
}

/** The counts that are kept of a shot, the newest first. */
export function listCounts(on: Queryable, shotId: number): Promise<SavedCount[]> {
  return selectCounts(on, shotId, KEPT);
}

async function selectCounts(on: Queryable, shotId: number, most: number): Promise<SavedCount[]> {
  const rows = await on.rows(
    `SELECT tallies.id, brief_id, version, expected, sound, blockers, findings, files, bytes, opened, content, listing, changes, counted_at, tallies.actor
       FROM tallies JOIN briefs ON briefs.id = brief_id WHERE tallies.shot_id = ? ORDER BY tallies.id DESC LIMIT ${most}`,
    [shotId],
  );
  return rows.map((row) => ({
    id: row.id as number,
    briefId: row.brief_id as number,
    briefVersion: row.version as number,
    files: row.files as number,
    bytes: row.bytes as number,
    opened: row.opened as number,
    content: row.content as string,
    listing: row.listing as string | null,
    changes: row.changes === null ? null : readStored(`Count ${row.id}`, () => changesSchema.parse(JSON.parse(row.changes as string))),
    countedAt: row.counted_at as Date,
    actor: row.actor as string,
    expected: row.expected as number,
    sound: row.sound as number,
    blockers: row.blockers as number,
    findings: row.findings as number,
  }));
}

/** The newest count of a shot with all that it found, or null before the first. */
export async function newestTally(on: Queryable, shotId: number): Promise<SavedTally | null> {
  const count = await newestCount(on, shotId);
  const tally = count && (await readTally(on, count.id));
  return tally && { ...count, tally };
}

/** Null when its shot has been deleted meanwhile. */
async function readTally(on: Queryable, id: number): Promise<Tally | null> {
  const [[head], passes, findings] = await Promise.all([
    on.rows('SELECT ready, level FROM tallies WHERE id = ?', [id]),
    on.rows('SELECT name, expected, sound, missing, broken, unexpected FROM tally_passes WHERE tally_id = ? ORDER BY place', [id]),
    readFindings(on, id, { whole: true }),
  ]);
  if (!head) return null;
  const [ready, level] = [head.ready === 1, head.level as Tally['level']];
  return { ready, level, passes: readStored(`Count ${id}`, () => passTallySchema.array().parse(passes)), findings };
}

/** What the counts of a shot after a moment found changed, one after the other. */
export async function listChangesAfter(on: Queryable, shotId: number, moment: Date): Promise<Changes[]> {
  const rows = await on.rows('SELECT changes FROM tallies WHERE shot_id = ? AND counted_at > ? AND changes IS NOT NULL ORDER BY id', [shotId, moment]);
  return rows.map((row) => changesSchema.parse(JSON.parse(row.changes as string)));
}
