import { receiptSchema, type Receipt } from '@mint-tally/core';
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

/** Keeps a receipt with the package that bears its manifest. @returns number of that package, or null where none does */
export async function addReceipt(inside: Transaction, shotId: number, receipt: Receipt, actor: string): Promise<number | null> {
  const [row] = await inside.rows("SELECT id FROM packages WHERE shot_id = ? AND manifest_sha256 = ? AND state = 'written' ORDER BY id DESC LIMIT 1", [
    shotId,
    receipt.manifestSha256,
  ]);
  const packageId = (row?.id as number | undefined) ?? null;
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
