import { gunzipSync, gzipSync } from 'node:zlib';
import { packageWishSchema, type PackageWish } from '@mint-tally/core';
import * as z from 'zod';
import type { Queryable, Transaction } from './database.ts';
import { readStored } from './stored.ts';

/** A package that was written. */
export interface SavedPackage {
  readonly id: number;
  readonly tallyId: number;
  readonly root: string;
  readonly folder: string;
  readonly files: number;
  readonly bytes: number;
  readonly manifestSha256: string;
  /** What was chosen for it. */
  readonly wish: PackageWish;
  /** Volumes that it consists of; 1 for one that is not split. */
  readonly volumes: number;
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
  saved: Omit<SavedPackage, 'id' | 'createdAt' | 'actor'> & {
    readonly holds: ReadonlyMap<string, string>;
    /** Checksums of the manifests, one a volume. */
    readonly manifests: readonly string[];
  },
  actor: string,
): Promise<number> {
  await inside.change("DELETE FROM packages WHERE shot_id = ? AND root = ? AND folder = ? AND state = 'naming'", [shotId, saved.root, saved.folder]);
  const { insertedId } = await inside.change(
    `INSERT INTO packages (shot_id, tally_id, root, folder, files, bytes, manifest_sha256, wish, volumes, holds, manifests, state, created_at, actor)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, 'naming', UTC_TIMESTAMP(3), ?)`,
    [
      ...[shotId, saved.tallyId, saved.root, saved.folder, saved.files, saved.bytes, saved.manifestSha256],
      ...[JSON.stringify(saved.wish), saved.volumes, gzipSync(JSON.stringify([...saved.holds])), JSON.stringify(saved.manifests)],
      actor,
    ],
  );
  return insertedId;
}

/** Notes that a package stands under its name. */
export async function confirmPackage(inside: Transaction, id: number): Promise<void> {
  await inside.change("UPDATE packages SET state = 'written' WHERE id = ?", [id]);
}

/** A package of the shot that was about to get this name, of which nobody knows whether it has. */
export async function findAnnounced(
  on: Queryable,
  shotId: number,
  root: string,
  folder: string,
): Promise<{ id: number; manifestSha256: string; volumes: number } | null> {
  const [row] = await on.rows(
    "SELECT id, manifest_sha256, volumes FROM packages WHERE shot_id = ? AND root = ? AND folder = ? AND state = 'naming' ORDER BY id DESC LIMIT 1",
    [shotId, root, folder],
  );
  return row ? { id: row.id as number, manifestSha256: row.manifest_sha256 as string, volumes: row.volumes as number } : null;
}

/** Where the newest package of all shots was written; null before the first. */
export async function newestPackagePlace(on: Queryable): Promise<{ root: string; folder: string } | null> {
  const [row] = await on.rows("SELECT root, folder FROM packages WHERE state = 'written' ORDER BY id DESC LIMIT 1");
  return row ? { root: row.root as string, folder: row.folder as string } : null;
}

/** Packages of a shot, newest first. */
export async function listPackages(on: Queryable, shotId: number): Promise<SavedPackage[]> {
  const rows = await on.rows(
    `SELECT id, tally_id AS tallyId, root, folder, files, bytes, manifest_sha256 AS manifestSha256, wish, volumes, created_at AS createdAt, actor
       FROM packages WHERE shot_id = ? AND state = 'written' ORDER BY id DESC`,
    [shotId],
  );
  return rows.map((row) => ({
    ...(row as unknown as SavedPackage),
    wish: readStored(`Package ${String(row.id)}`, () => packageWishSchema.parse(JSON.parse(row.wish as string))),
  }));
}

const holdsSchema = z.array(z.tuple([z.string(), z.string()]));

/** What whoever has a package, and those that it goes on from, has of the shot: checksums of frames by their paths; null where nobody noted it. */
export async function readHolds(on: Queryable, shotId: number, packageId: number): Promise<Map<string, string> | null> {
  const [row] = await on.rows("SELECT holds FROM packages WHERE shot_id = ? AND id = ? AND state = 'written'", [shotId, packageId]);
  if (!row?.holds) return null;
  return readStored(`Package ${packageId}`, () => new Map(holdsSchema.parse(JSON.parse(gunzipSync(row.holds as Buffer).toString()))));
}
