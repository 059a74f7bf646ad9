import { describeError, waiverSubjectSchema, type WaiverSubject } from '@mint-tally/core';
import type { Queryable, Transaction } from './database.ts';
import { touchShot } from './shots.ts';
import { readStored } from './stored.ts';

/** Something that a named person accepts, with a reason. */
export interface Waiver {
  readonly id: number;
  readonly subject: WaiverSubject;
  readonly person: string;
  readonly reason: string;
  readonly createdAt: Date;
}

export async function addWaiver(inside: Transaction, shotId: number, waiver: Pick<Waiver, 'subject' | 'person' | 'reason'>, actor: string): Promise<void> {
  await inside.change('INSERT INTO waivers (shot_id, subject, person, reason, created_at, actor) VALUES (?, ?, ?, ?, UTC_TIMESTAMP(3), ?)', [
    shotId,
    JSON.stringify(waiver.subject),
    waiver.person,
    waiver.reason,
    actor,
  ]);
  await touchShot(inside, shotId);
}

/** Takes a waiver back; it stays in the record. */
export async function withdrawWaiver(inside: Transaction, shotId: number, id: number, actor: string): Promise<void> {
  await inside.change('UPDATE waivers SET withdrawn_at = UTC_TIMESTAMP(3), withdrawn_by = ? WHERE id = ? AND shot_id = ? AND withdrawn_at IS NULL', [
    actor,
    id,
    shotId,
  ]);
  await touchShot(inside, shotId);
}

/** The waivers of a shot that stand, oldest first, and what of them cannot be read: that waives nothing. */
export async function listWaivers(on: Queryable, shotId: number): Promise<{ waivers: Waiver[]; unreadable: { id: number; why: string }[] }> {
  const rows = await on.rows('SELECT id, subject, person, reason, created_at FROM waivers WHERE shot_id = ? AND withdrawn_at IS NULL ORDER BY id', [shotId]);
  const waivers: Waiver[] = [];
  const unreadable: { id: number; why: string }[] = [];
  for (const row of rows) {
    try {
      const subject = readStored(`The waiver ${row.id} of ${row.person}`, () => waiverSubjectSchema.parse(JSON.parse(row.subject)));
      waivers.push({ id: row.id, subject, person: row.person, reason: row.reason, createdAt: row.created_at });
    } catch (thrown) {
      unreadable.push({ id: row.id, why: describeError(thrown) });
    }
  }
  return { waivers, unreadable };
}
