import { formatFrameRange, parseFrameSet, type ListedFrames } from '@mint-tally/core';
import * as z from 'zod';
import type { Queryable } from './database.ts';
import { readStored } from './stored.ts';

const contentsSchema = z.record(z.string(), z.record(z.string(), z.string()));

/** Frames that somebody wants rendered again, and why. */
export interface MendListEntry extends ListedFrames {
  readonly id: number;
  readonly reason: string;
  /** Where it was gathered. */
  readonly origin: string;
  readonly at: Date;
  readonly actor: string;
}

/** Puts frames on the list; what is on it already for the same pass and reason grows. */
export async function addToMendList(
  on: Queryable,
  shotId: number,
  { pass, frames, contents, reason, origin }: Omit<MendListEntry, 'id' | 'at' | 'actor'>,
  actor: string,
): Promise<void> {
  const [row] = await on.rows('SELECT id, frames, contents FROM mend_list WHERE shot_id = ? AND pass = ? AND reason = ? AND dropped_at IS NULL', [
    ...[shotId, pass, reason],
  ]);
  if (!row) {
    await on.change(
      'INSERT INTO mend_list (shot_id, pass, frames, reason, origin, contents, created_at, actor) VALUES (?, ?, ?, ?, ?, ?, UTC_TIMESTAMP(3), ?)',
      [...[shotId, pass, formatFrameRange(frames), reason, origin, JSON.stringify(contents), actor]],
    );
    return;
  }
  const before = readStored('The mend list', () => ({
    frames: parseFrameSet(row.frames as string),
    contents: contentsSchema.parse(JSON.parse(row.contents as string)),
  }));
  const joined = Object.fromEntries(Object.entries(contents).map(([name, held]) => [name, { ...before.contents[name], ...held }]));
  await on.change('UPDATE mend_list SET frames = ?, contents = ? WHERE id = ?', [
    ...[formatFrameRange(before.frames.union(frames)), JSON.stringify({ ...before.contents, ...joined }), row.id as number],
  ]);
}

/** What stands on the list of a shot, the newest first. */
export async function listMendList(on: Queryable, shotId: number): Promise<MendListEntry[]> {
  const rows = await on.rows(
    'SELECT id, pass, frames, reason, origin, contents, created_at, actor FROM mend_list WHERE shot_id = ? AND dropped_at IS NULL ORDER BY id DESC LIMIT 200',
    [shotId],
  );
  return rows.map((row) =>
    readStored('The mend list', () => ({
      id: row.id as number,
      pass: row.pass as string,
      frames: parseFrameSet(row.frames as string),
      reason: row.reason as string,
      origin: row.origin as string,
      contents: contentsSchema.parse(JSON.parse(row.contents as string)),
      at: row.created_at as Date,
      actor: row.actor as string,
    })),
  );
}

/** Takes entries off the list. */
export async function dropFromMendList(on: Queryable, shotId: number, ids: readonly number[]): Promise<void> {
  if (ids.length === 0) return;
  await on.change(`UPDATE mend_list SET dropped_at = UTC_TIMESTAMP(3) WHERE shot_id = ? AND id IN (${ids.map(() => '?').join()})`, [shotId, ...ids]);
}
