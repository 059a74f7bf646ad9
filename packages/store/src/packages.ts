import type { Queryable } from './database.ts';

/** A package that was written. */
export interface SavedPackage {
  readonly id: number;
  readonly tallyId: number;
  readonly root: string;
  readonly folder: string;
  readonly files: number;
  readonly bytes: number;
  readonly manifestSha256: string;
  readonly createdAt: Date;
  readonly actor: string;
}

export async function savePackage(on: Queryable, shotId: number, saved: Omit<SavedPackage, 'id' | 'createdAt' | 'actor'>, actor: string): Promise<void> {
  await on.change(
    'INSERT INTO packages (shot_id, tally_id, root, folder, files, bytes, manifest_sha256, created_at, actor) VALUES (?, ?, ?, ?, ?, ?, ?, UTC_TIMESTAMP(3), ?)',
    [shotId, saved.tallyId, saved.root, saved.folder, saved.files, saved.bytes, saved.manifestSha256, actor],
  );
}

/** Packages of a shot, newest first. */
export async function listPackages(on: Queryable, shotId: number): Promise<SavedPackage[]> {
  return (await on.rows(
    `SELECT id, tally_id AS tallyId, root, folder, files, bytes, manifest_sha256 AS manifestSha256, created_at AS createdAt, actor
       FROM packages WHERE shot_id = ? ORDER BY id DESC`,
    [shotId],
  )) as unknown as SavedPackage[];
}
