import type { Queryable, Transaction } from './database.ts';

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

/**
 * Writes down a package that is whole and is about to get its name. Earlier ones of the shot that were
 * to have the same name never got it: they are forgotten.
 */
export async function announcePackage(
  inside: Transaction,
  shotId: number,
  saved: Omit<SavedPackage, 'id' | 'createdAt' | 'actor'>,
  actor: string,
): Promise<number> {
  await inside.change("DELETE FROM packages WHERE shot_id = ? AND root = ? AND folder = ? AND state = 'naming'", [shotId, saved.root, saved.folder]);
  const { insertedId } = await inside.change(
    `INSERT INTO packages (shot_id, tally_id, root, folder, files, bytes, manifest_sha256, state, created_at, actor)
       VALUES (?, ?, ?, ?, ?, ?, ?, 'naming', UTC_TIMESTAMP(3), ?)`,
    [shotId, saved.tallyId, saved.root, saved.folder, saved.files, saved.bytes, saved.manifestSha256, actor],
  );
  return insertedId;
}

/** Notes that a package stands under its name. */
export async function confirmPackage(inside: Transaction, id: number): Promise<void> {
  await inside.change("UPDATE packages SET state = 'written' WHERE id = ?", [id]);
}

/** A package of the shot that was about to get this name, of which nobody knows whether it has. */
export async function findAnnounced(on: Queryable, shotId: number, root: string, folder: string): Promise<{ id: number; manifestSha256: string } | null> {
  const [row] = await on.rows(
    "SELECT id, manifest_sha256 FROM packages WHERE shot_id = ? AND root = ? AND folder = ? AND state = 'naming' ORDER BY id DESC LIMIT 1",
    [shotId, root, folder],
  );
  return row ? { id: row.id as number, manifestSha256: row.manifest_sha256 as string } : null;
}

/** Where the newest package of all shots was written; null before the first. */
export async function newestPackagePlace(on: Queryable): Promise<{ root: string; folder: string } | null> {
  const [row] = await on.rows("SELECT root, folder FROM packages WHERE state = 'written' ORDER BY id DESC LIMIT 1");
  return row ? { root: row.root as string, folder: row.folder as string } : null;
}

/** Packages of a shot, newest first. */
export async function listPackages(on: Queryable, shotId: number): Promise<SavedPackage[]> {
  return (await on.rows(
    `SELECT id, tally_id AS tallyId, root, folder, files, bytes, manifest_sha256 AS manifestSha256, created_at AS createdAt, actor
       FROM packages WHERE shot_id = ? AND state = 'written' ORDER BY id DESC`,
    [shotId],
  )) as unknown as SavedPackage[];
}
