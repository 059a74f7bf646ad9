import { noteSchema, type Note } from '@mint-tally/core';
import { StoreError, type Queryable, type Transaction } from './database.ts';
import { touchShot } from './shots.ts';
import { readStored } from './stored.ts';

/** A note with who wrote it, and who closed it. */
export interface SavedNote extends Note {
  readonly id: number;
  readonly person: string;
  readonly createdAt: Date;
  readonly closed: { readonly by: string; readonly at: Date } | null;
}

/** Closed notes that are read with the open ones. */
const CLOSED_SHOWN = 50;

export async function addNote(inside: Transaction, shotId: number, note: Note, person: string, actor: string): Promise<number> {
  const { insertedId } = await inside.change('INSERT INTO notes (shot_id, body, person, created_at, actor) VALUES (?, ?, ?, UTC_TIMESTAMP(3), ?)', [
    shotId,
    JSON.stringify(note),
    person,
    actor,
  ]);
  await touchShot(inside, shotId);
  return insertedId;
}

/** Closes a note, or opens it again. @throws StoreError when the shot has no such note */
export async function setNoteClosed(inside: Transaction, shotId: number, id: number, closed: boolean, person: string): Promise<void> {
  const [row] = await inside.rows('SELECT id FROM notes WHERE id = ? AND shot_id = ? FOR UPDATE', [id, shotId]);
  if (!row) throw new StoreError('There is no such note.', { remedy: 'Read the page anew.' });
  await inside.change(
    'UPDATE notes SET closed_at = IF(?, COALESCE(closed_at, UTC_TIMESTAMP(3)), NULL), closed_by = IF(?, COALESCE(closed_by, ?), NULL) WHERE id = ?',
    [closed, closed, person, id],
  );
  await touchShot(inside, shotId);
}

/** The notes of a shot that stand, and those that were closed last; oldest first. */
export async function listNotes(on: Queryable, shotId: number): Promise<SavedNote[]> {
  const rows = await on.rows(
    `SELECT id, body, person, created_at, closed_at, closed_by FROM notes WHERE shot_id = ? AND (closed_at IS NULL
       OR id IN (SELECT id FROM (SELECT id FROM notes WHERE shot_id = ? AND closed_at IS NOT NULL ORDER BY closed_at DESC LIMIT ${CLOSED_SHOWN}) AS latest))
     ORDER BY id`,
    [shotId, shotId],
  );
  return rows.map((row) => ({
    id: row.id as number,
    ...readStored(`Note ${row.id}`, () => noteSchema.parse(JSON.parse(row.body as string))),
    person: row.person as string,
    createdAt: row.created_at as Date,
    closed: row.closed_at === null ? null : { by: row.closed_by as string, at: row.closed_at as Date },
  }));
}
