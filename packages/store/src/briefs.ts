import { parseBrief, type Brief } from '@mint-tally/core';
import type { Queryable, Transaction } from './database.ts';
import { readStored } from './stored.ts';
import { touchShot } from './shots.ts';

/** A saved version of a shot's brief. */
export interface SavedBrief {
  readonly id: number;
  /** 1 for the first. */
  readonly version: number;
  readonly brief: Brief;
  readonly actor: string;
  readonly createdAt: Date;
}

/** Saves a new version of the brief, unless it says just what the newest one says. */
export async function saveBrief(inside: Transaction, shotId: number, brief: Brief, actor: string): Promise<SavedBrief> {
  // The shot's row is locked, so that two people who save at once get two versions.
  await inside.rows('SELECT id FROM shots WHERE id = ? FOR UPDATE', [shotId]);
  const newest = await newestBrief(inside, shotId);
  if (newest && JSON.stringify(newest.brief) === JSON.stringify(brief)) return newest;
  const version = (newest?.version ?? 0) + 1;
  const createdAt = new Date();
  const { insertedId } = await inside.change('INSERT INTO briefs (shot_id, version, body, created_at, actor) VALUES (?, ?, ?, ?, ?)', [
    shotId,
    version,
    JSON.stringify(brief),
    createdAt,
    actor,
  ]);
  await touchShot(inside, shotId);
  return { id: insertedId, version, brief, actor, createdAt };
}

const COLUMNS = 'id, version, body, actor, created_at';

function toSaved(row: Record<string, unknown>): SavedBrief {
  return {
    id: row.id as number,
    version: row.version as number,
    brief: readStored(`Version ${row.version as number} of the brief`, () => parseBrief(JSON.parse(row.body as string))),
    actor: row.actor as string,
    createdAt: row.created_at as Date,
  };
}

/** The brief that counts, or null before the first is saved. */
export async function newestBrief(on: Queryable, shotId: number): Promise<SavedBrief | null> {
  const [row] = await on.rows(`SELECT ${COLUMNS} FROM briefs WHERE shot_id = ? ORDER BY version DESC LIMIT 1`, [shotId]);
  return row ? toSaved(row) : null;
}

/** All versions of a shot's brief, newest first. */
export async function listBriefs(on: Queryable, shotId: number): Promise<SavedBrief[]> {
  return (await on.rows(`SELECT ${COLUMNS} FROM briefs WHERE shot_id = ? ORDER BY version DESC`, [shotId])).map(toSaved);
}
