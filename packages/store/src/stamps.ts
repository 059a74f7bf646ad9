import type { Queryable, Transaction } from './database.ts';
import { touchShot } from './shots.ts';

/** A person's word for a version: that it is signed off, or that it goes back. */
export interface Stamp {
  readonly id: number;
  readonly kind: 'signed' | 'sent-back';
  /** Stands for the content of all files that were counted then. */
  readonly content: string;
  readonly person: string;
  readonly note: string;
  readonly createdAt: Date;
}

export async function addStamp(inside: Transaction, shotId: number, stamp: Omit<Stamp, 'id' | 'createdAt'>, actor: string): Promise<void> {
  await inside.change('INSERT INTO stamps (shot_id, kind, content, person, note, created_at, actor) VALUES (?, ?, ?, ?, ?, UTC_TIMESTAMP(3), ?)', [
    ...[shotId, stamp.kind, stamp.content, stamp.person, stamp.note],
    actor,
  ]);
  await touchShot(inside, shotId);
}

/** Takes a stamp back; it stays in the record. */
export async function withdrawStamp(inside: Transaction, shotId: number, id: number, actor: string): Promise<void> {
  await inside.change('UPDATE stamps SET withdrawn_at = UTC_TIMESTAMP(3), withdrawn_by = ? WHERE id = ? AND shot_id = ? AND withdrawn_at IS NULL', [
    actor,
    id,
    shotId,
  ]);
  await touchShot(inside, shotId);
}

/** The newest stamp of a shot that nobody took back; null where there is none. */
export async function newestStamp(on: Queryable, shotId: number): Promise<Stamp | null> {
  const [row] = await on.rows(
    'SELECT id, kind, content, person, note, created_at AS createdAt FROM stamps WHERE shot_id = ? AND withdrawn_at IS NULL ORDER BY id DESC LIMIT 1',
    [shotId],
  );
  return (row as unknown as Stamp | undefined) ?? null;
}
