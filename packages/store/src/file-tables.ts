import { promisify } from 'node:util';
import { deflate, inflate } from 'node:zlib';
import { fileTableSchema, type FileTable } from '@mint-tally/core';
import type { Queryable, Transaction } from './database.ts';
import { readStored } from './stored.ts';

const [pack, unpack] = [promisify(deflate), promisify(inflate)];
/** Rows in one part: so much is packed and sent at a time. */
const ROWS_A_PART = 100_000;

/** Keeps the files that a count listed, in place of what the count before did. */
export async function saveFileTable(inside: Transaction, shotId: number, tallyId: number, table: FileTable): Promise<void> {
  await inside.change('DELETE FROM file_tables WHERE shot_id = ?', [shotId]);
  for (let from = 0, part = 0; from < Math.max(1, table.path.length); from += ROWS_A_PART, part++) {
    const body = await pack(JSON.stringify(part === 0 ? cut(table, from) : { ...cut(table, from), passes: [], kinds: [], hosts: [] }), { level: 1 });
    await inside.change('INSERT INTO file_tables (shot_id, part, tally_id, body) VALUES (?, ?, ?, ?)', [shotId, part, tallyId, body]);
  }
}

function cut(table: FileTable, from: number): FileTable {
  const to = from + ROWS_A_PART;
  const { passes, kinds, hosts } = table;
  const columns = ['path', 'pass', 'frame', 'size', 'modified', 'kind', 'host', 'samples'] as const;
  return { passes, kinds, hosts, ...Object.fromEntries(columns.map((name) => [name, table[name].slice(from, to)])) } as FileTable;
}

/** A count that found nothing changed stands on the files of the one before. */
export async function keepFileTable(inside: Transaction, shotId: number, tallyId: number): Promise<void> {
  await inside.change('UPDATE file_tables SET tally_id = ? WHERE shot_id = ?', [tallyId, shotId]);
}

/** The files of a shot's newest count that listed them, or null before the first. */
export async function readFileTable(on: Queryable, shotId: number): Promise<FileTable | null> {
  const rows = await on.rows('SELECT body FROM file_tables WHERE shot_id = ? ORDER BY part', [shotId]);
  const parts: FileTable[] = [];
  for (const row of rows) {
    const text = (await unpack(row.body as Buffer)).toString();
    parts.push(readStored(`The list of files of shot ${shotId}`, () => fileTableSchema.parse(JSON.parse(text))));
  }
  const [first, ...others] = parts;
  if (!first) return null;
  for (const part of others) {
    for (const column of ['path', 'pass', 'frame', 'size', 'modified', 'kind', 'host', 'samples'] as const) {
      (first[column] as unknown[]) = (first[column] as unknown[]).concat(part[column]);
    }
  }
  return first;
}

/** Counted shots whose files, or their contents, were never listed: counts of earlier versions did not. */
export async function listShotsWithoutTable(on: Queryable): Promise<number[]> {
  const rows = await on.rows(
    `SELECT id FROM shots WHERE EXISTS (SELECT 1 FROM tallies WHERE shot_id = shots.id)
       AND NOT (EXISTS (SELECT 1 FROM file_tables WHERE shot_id = shots.id) AND EXISTS (SELECT 1 FROM pass_contents WHERE shot_id = shots.id))`,
  );
  return rows.map((row) => row.id as number);
}
