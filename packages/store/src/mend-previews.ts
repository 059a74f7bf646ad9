import { mendStepsSchema, mendWishSchema, type MendConflict, type MendStep, type MendWish } from '@mint-tally/core';
import * as z from 'zod';
import type { Queryable } from './database.ts';
import { readStored } from './stored.ts';

const wordSchema = z.object({ pass: z.string(), frame: z.number(), message: z.string() });

const planSchema = mendStepsSchema.extend({
  conflicts: z.array(z.object({ files: z.array(z.string()), message: z.string() })),
  /** Frames that are left out, and why. */
  refused: z.array(wordSchema),
  /** What is to be known of frames that are not. */
  words: z.array(wordSchema),
  /** What is said of the whole. */
  notes: z.array(z.string()).default([]),
});

/** A mend as an engine has previewed it. */
export interface MendPreview {
  readonly wish: MendWish;
  readonly seen: string;
  readonly steps: readonly MendStep[];
  readonly conflicts: readonly MendConflict[];
  readonly refused: readonly z.output<typeof wordSchema>[];
  readonly words: readonly z.output<typeof wordSchema>[];
  readonly notes: readonly string[];
  readonly madeAt: Date;
}

/** Keeps a preview in the place of the shot's last one. */
export async function saveMendPreview(on: Queryable, shotId: number, { wish, seen, ...plan }: Omit<MendPreview, 'madeAt'>): Promise<void> {
  const { steps, conflicts, refused, words, notes } = plan;
  await on.change('REPLACE INTO mend_previews (shot_id, wish, seen, plan, made_at) VALUES (?, ?, ?, ?, UTC_TIMESTAMP(3))', [
    ...[shotId, JSON.stringify(wish), seen],
    JSON.stringify({ steps, conflicts, refused, words, notes }),
  ]);
}

/** Forgets a preview, since it has been carried out. */
export async function forgetMendPreview(on: Queryable, shotId: number, seen: string): Promise<void> {
  await on.change('DELETE FROM mend_previews WHERE shot_id = ? AND seen = ?', [shotId, seen]);
}

/** The shot's newest preview; null where there was none. */
export async function readMendPreview(on: Queryable, shotId: number): Promise<MendPreview | null> {
  const [row] = await on.rows('SELECT wish, seen, plan, made_at FROM mend_previews WHERE shot_id = ?', [shotId]);
  if (!row) return null;
  return readStored(`The preview of shot ${shotId}`, () => ({
    ...planSchema.parse(JSON.parse(row.plan as string)),
    wish: mendWishSchema.parse(JSON.parse(row.wish as string)),
    seen: row.seen as string,
    madeAt: row.made_at as Date,
  }));
}
