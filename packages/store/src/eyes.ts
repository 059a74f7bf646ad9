import { CONTENT_DIGITS, type PassContents, type PassSight, type Sight } from '@mint-tally/core';
import { StoreError, type Queryable, type Transaction } from './database.ts';
import { touchShot } from './shots.ts';

const CONTENT_BYTES = CONTENT_DIGITS / 2;
const ENTRY_BYTES = 4 + CONTENT_BYTES;

/** Keeps the contents of a shot's files, in place of those of the count before. */
export async function savePassContents(inside: Transaction, shotId: number, passes: readonly PassContents[]): Promise<void> {
  await inside.change('DELETE FROM pass_contents WHERE shot_id = ?', [shotId]);
  await inside.insertMany(
    'INSERT INTO pass_contents (shot_id, pass, body) VALUES ?',
    passes.map(({ pass, frames, contents }) => {
      const body = Buffer.alloc(frames.length * ENTRY_BYTES);
      frames.forEach((frame, place) => {
        body.writeInt32LE(frame, place * ENTRY_BYTES);
        body.write(contents[place]!, place * ENTRY_BYTES + 4, 'hex');
      });
      return [shotId, pass, body];
    }),
  );
}

/** The contents of a shot's files as they were counted last; none before the first count. */
export async function readPassContents(on: Queryable, shotId: number): Promise<PassContents[]> {
  const rows = await on.rows('SELECT pass, body FROM pass_contents WHERE shot_id = ?', [shotId]);
  return rows.map((row) => {
    const body = row.body as Buffer;
    if (body.length % ENTRY_BYTES !== 0) throw new StoreError(`The contents of ${row.pass} cannot be read from the database.`, { remedy: 'Count again.' });
    const [frames, contents] = [[] as number[], [] as string[]];
    for (let at = 0; at < body.length; at += ENTRY_BYTES) {
      frames.push(body.readInt32LE(at));
      contents.push(body.toString('hex', at + 4, at + ENTRY_BYTES));
    }
    return { pass: row.pass as string, frames, contents };
  });
}

/** Adds what somebody has seen of a pass to what is known. */
export async function addSights(inside: Transaction, shotId: number, pass: string, sights: readonly Sight[], person: string): Promise<void> {
  if (sights.length === 0) return;
  const now = new Date();
  await inside.insertMany(
    `INSERT INTO sights (shot_id, pass, frame, content, way, parts, person, seen_at) VALUES ?
       ON DUPLICATE KEY UPDATE parts = parts | VALUES(parts), person = VALUES(person), seen_at = VALUES(seen_at)`,
    sights.map(({ frame, content, way, parts }) => [shotId, pass, frame, Buffer.from(content, 'hex'), way, parts, person, now]),
  );
  await touchShot(inside, shotId);
}

/** Everything that has been seen of a shot, also of files that are others by now. */
export async function listSights(on: Queryable, shotId: number): Promise<PassSight[]> {
  const rows = await on.rows('SELECT pass, frame, content, way, parts FROM sights WHERE shot_id = ?', [shotId]);
  return rows.map((row) => ({
    pass: row.pass as string,
    frame: row.frame as number,
    content: (row.content as Buffer).toString('hex'),
    way: row.way as Sight['way'],
    parts: row.parts as number,
  }));
}

/** Who has watched a shot at the ordered rate and at 100 %, those who did last first. */
export async function listWatchers(on: Queryable, shotId: number): Promise<{ person: string; last: Date }[]> {
  const rows = await on.rows("SELECT person, MAX(seen_at) AS last FROM sights WHERE shot_id = ? AND way = 'full' GROUP BY person ORDER BY last DESC", [shotId]);
  return rows.map((row) => ({ person: row.person as string, last: row.last as Date }));
}
