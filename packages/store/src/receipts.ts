import { receiptSchema, type Receipt } from '@mint-tally/core';
import * as z from 'zod';
import type { Queryable, Transaction } from './database.ts';
import { touchShot } from './shots.ts';
import { readStored } from './stored.ts';

/** What the other side said of a package that arrived. */
export interface SavedReceipt {
  readonly id: number;
  /** The package of the shot that it is of; null where none is the one that arrived. */
  readonly packageId: number | null;
  readonly receipt: Receipt;
  readonly createdAt: Date;
}

const manifestsSchema = z.array(z.string());

/** Keeps a receipt with the package that bears its manifest, of one of its volumes. @returns number of that package, or null where none does */
export async function addReceipt(inside: Transaction, shotId: number, receipt: Receipt, actor: string): Promise<number | null> {
  const rows = await inside.rows("SELECT id, manifest_sha256, manifests FROM packages WHERE shot_id = ? AND state = 'written' ORDER BY id DESC", [shotId]);
  const manifestsOf = ({ id, manifest_sha256, manifests }: (typeof rows)[number]) =>
    manifests === null ? [manifest_sha256 as string] : readStored(`Package ${String(id)}`, () => manifestsSchema.parse(JSON.parse(manifests as string)));
  const packageId = (rows.find((row) => manifestsOf(row).includes(receipt.manifestSha256))?.id as number | undefined) ?? null;
  await inside.change('INSERT INTO receipts (shot_id, package_id, body, created_at, actor) VALUES (?, ?, ?, UTC_TIMESTAMP(3), ?)', [
    ...[shotId, packageId, JSON.stringify(receipt)],
    actor,
  ]);
  await touchShot(inside, shotId);
  return packageId;
}

/** Receipts of a shot, newest first. */
export async function listReceipts(on: Queryable, shotId: number, most = 100): Promise<SavedReceipt[]> {
  const rows = await on.rows('SELECT id, package_id, body, created_at FROM receipts WHERE shot_id = ? ORDER BY id DESC LIMIT ?', [shotId, most]);
  return rows.map((row) => ({
    ...{ id: row.id as number, packageId: row.package_id as number | null, createdAt: row.created_at as Date },
    receipt: readStored(`Receipt ${String(row.id)}`, () => receiptSchema.parse(JSON.parse(row.body as string))),
  }));
}
