import { fileFactsSchema, SharedParts, type FileFacts } from '@mint-tally/core';
import type { Queryable } from './database.ts';
import { readStored } from './stored.ts';

/** What is known of one file. */
export interface StoredFile {
  readonly path: string;
  readonly size: number;
  /** Milliseconds since 1970. */
  readonly modified: number;
  readonly sha256: string | null;
  readonly facts: FileFacts;
}

/** Longer paths are not kept; their files are read again at each count. */
const LONGEST_PATH = 2048;

/** So many rows are in memory as text at a time, beside what they are turned into. */
const ROWS_AT_ONCE = 2000;

/** All that is known of a shot's files, by path. */
export async function loadFileFacts(on: Queryable, shotId: number): Promise<Map<string, StoredFile>> {
  const shared = new SharedParts();
  const files = new Map<string, StoredFile>();
  let after: Buffer = Buffer.alloc(0);
  for (;;) {
    const rows = await on.rows('SELECT path, size, modified, sha256, facts FROM file_facts WHERE shot_id = ? AND path > ? ORDER BY path LIMIT ?', [
      shotId,
      after,
      ROWS_AT_ONCE,
    ]);
    for (const row of rows) {
      const file = toStored(row);
      files.set(file.path, { ...file, facts: shared.share(file.facts) });
    }
    if (rows.length < ROWS_AT_ONCE) return files;
    after = rows[rows.length - 1]!.path as Buffer;
  }
}

/** What is known of one file, or null. */
export async function findFileFacts(on: Queryable, shotId: number, path: string): Promise<StoredFile | null> {
  const [row] = await on.rows('SELECT path, size, modified, sha256, facts FROM file_facts WHERE shot_id = ? AND path = ?', [shotId, Buffer.from(path)]);
  return row ? toStored(row) : null;
}

function toStored(row: Record<string, unknown>): StoredFile {
  return {
    path: (row.path as Buffer).toString(),
    size: row.size as number,
    modified: row.modified as number,
    sha256: row.sha256 as string | null,
    facts: readStored(`What is known of ${(row.path as Buffer).toString()}`, () => fileFactsSchema.parse(JSON.parse(row.facts as string))),
  };
}

/** Keeps what was found of some files, in place of what was known. */
export async function saveFileFacts(on: Queryable, shotId: number, files: readonly StoredFile[]): Promise<void> {
  const rows = files
    .map((file) => [shotId, Buffer.from(file.path), file.size, file.modified, file.sha256, JSON.stringify(file.facts)] as const)
    .filter(([, path]) => path.length <= LONGEST_PATH);
  await on.insertMany('REPLACE INTO file_facts (shot_id, path, size, modified, sha256, facts) VALUES ?', rows);
}

/** Forgets files that are not there any more. */
export async function forgetFiles(on: Queryable, shotId: number, paths: readonly string[]): Promise<void> {
  const batch = 500;
  for (let start = 0; start < paths.length; start += batch) {
    const some = paths.slice(start, start + batch).map((path) => Buffer.from(path));
    await on.change(`DELETE FROM file_facts WHERE shot_id = ? AND path IN (${some.map(() => '?').join(', ')})`, [shotId, ...some]);
  }
}
