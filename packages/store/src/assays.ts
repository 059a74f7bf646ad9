import { findingSchema, keptAssaySchema, type Finding, type KeptAssay } from '@mint-tally/core';
import * as z from 'zod';
import type { Queryable, Transaction } from './database.ts';
import { touchShot } from './shots.ts';
import { readStored } from './stored.ts';

/** What an assay is of. */
export interface AssaySubject {
  readonly briefId: number;
  /** Of the count whose frames were measured. */
  readonly content: string;
}

/** The newest assay of a shot, as pages show it beside the count. */
export interface NewestAssay extends AssaySubject {
  readonly at: Date;
  readonly findings: readonly Finding[];
}

/** Keeps an assay in place of the one before. */
export async function saveAssay(
  inside: Transaction,
  shotId: number,
  { briefId, content }: AssaySubject,
  assay: KeptAssay,
  findings: readonly Finding[],
  actor: string,
): Promise<void> {
  const written = findings.map((finding) => ({ ...finding, frames: finding.frames.toString() }));
  await inside.change('REPLACE INTO assays (shot_id, brief_id, content, assayed_at, actor, body, findings) VALUES (?, ?, ?, ?, ?, ?, ?)', [
    ...[shotId, briefId, content, new Date(), actor],
    ...[JSON.stringify(assay), JSON.stringify(written)],
  ]);
  await touchShot(inside, shotId);
}

/** The newest assay's findings; null before the first. */
export async function newestAssay(on: Queryable, shotId: number): Promise<NewestAssay | null> {
  const [row] = await on.rows('SELECT brief_id, content, assayed_at, findings FROM assays WHERE shot_id = ?', [shotId]);
  if (!row) return null;
  return {
    briefId: row.brief_id as number,
    content: row.content as string,
    at: row.assayed_at as Date,
    findings: readStored(`The findings of the assay of shot ${shotId}`, () => z.array(findingSchema).parse(JSON.parse(row.findings as string))),
  };
}

/** The newest assay's figures; null before the first. */
export async function readAssay(on: Queryable, shotId: number): Promise<KeptAssay | null> {
  const [row] = await on.rows('SELECT body FROM assays WHERE shot_id = ?', [shotId]);
  return row ? readStored(`The assay of shot ${shotId}`, () => keptAssaySchema.parse(JSON.parse(row.body as string))) : null;
}
