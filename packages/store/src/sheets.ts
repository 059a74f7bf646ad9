import { contactSheetSettingsSchema, type ContactSheetSettings } from '@mint-tally/core';
import * as z from 'zod';
import type { Queryable, Transaction } from './database.ts';
import { touchShot } from './shots.ts';
import { readStored } from './stored.ts';

/** What a contact sheet was found to be when it was made. */
export const madeSheetSchema = z.object({
  pictures: z.number(),
  pages: z.number(),
  bytes: z.number(),
  slates: z.array(z.object({ pass: z.string(), frames: z.string() })),
});

/** A contact sheet that was made. */
export interface SavedSheet {
  readonly id: number;
  readonly root: string;
  /** Below the root. */
  readonly file: string;
  readonly wish: ContactSheetSettings;
  readonly made: z.output<typeof madeSheetSchema>;
  readonly createdAt: Date;
  readonly actor: string;
}

export async function noteSheet(inside: Transaction, shotId: number, sheet: Omit<SavedSheet, 'id' | 'createdAt' | 'actor'>, actor: string): Promise<void> {
  await inside.change('INSERT INTO sheets (shot_id, root, file, wish, made, created_at, actor) VALUES (?, ?, ?, ?, ?, UTC_TIMESTAMP(3), ?)', [
    ...[shotId, sheet.root, sheet.file, JSON.stringify(sheet.wish), JSON.stringify(sheet.made)],
    actor,
  ]);
  await touchShot(inside, shotId);
}

/** Contact sheets of a shot, newest first. */
export async function listSheets(on: Queryable, shotId: number, most = 100): Promise<SavedSheet[]> {
  const rows = await on.rows('SELECT id, root, file, wish, made, created_at, actor FROM sheets WHERE shot_id = ? ORDER BY id DESC LIMIT ?', [shotId, most]);
  return rows.map((row) => {
    const read = <Kept>(schema: z.ZodType<Kept>, text: unknown) =>
      readStored(`Contact sheet ${String(row.id)}`, () => schema.parse(JSON.parse(text as string)));
    return {
      ...{ id: row.id as number, root: row.root as string, file: row.file as string },
      ...{ wish: read(contactSheetSettingsSchema, row.wish), made: read(madeSheetSchema, row.made) },
      ...{ createdAt: row.created_at as Date, actor: row.actor as string },
    };
  });
}
