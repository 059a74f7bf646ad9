import { receiptSchema, type Receipt } from '@mint-tally/core';
import type { Queryable, Transaction } from './database.ts';
import { touchShot } from './shots.ts';
import { readStored } from './stored.ts';

/** A package that came from elsewhere, and is looked at as a shot. */
export interface Arrival {
  readonly root: string;
  /** The package's own folder, below the root; its frames lie in `data`. */
  readonly folder: string;
  /** What was found when it was verified last; null before that. */
  readonly receipt: Receipt | null;
}

/** Writes down that a shot is what a package holds. */
export async function noteArrival(inside: Transaction, shotId: number, { root, folder }: Omit<Arrival, 'receipt'>, actor: string): Promise<void> {
  await inside.change('INSERT INTO arrivals (shot_id, root, folder, opened_at, actor) VALUES (?, ?, ?, UTC_TIMESTAMP(3), ?)', [shotId, root, folder, actor]);
}

/** Keeps what was found in it. */
export async function keepVerified(inside: Transaction, shotId: number, receipt: Receipt): Promise<void> {
  await inside.change('UPDATE arrivals SET receipt = ? WHERE shot_id = ?', [JSON.stringify(receipt), shotId]);
  await touchShot(inside, shotId);
}

/** The package that a shot came in; null for one that did not. */
export async function findArrival(on: Queryable, shotId: number): Promise<Arrival | null> {
  const [row] = await on.rows('SELECT root, folder, receipt FROM arrivals WHERE shot_id = ?', [shotId]);
  if (!row) return null;
  const text = row.receipt as string | null;
  const receipt = text === null ? null : readStored(`What was found in the package of shot ${shotId}`, () => receiptSchema.parse(JSON.parse(text)));
  return { root: row.root as string, folder: row.folder as string, receipt };
}
