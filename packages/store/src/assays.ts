import {
  findingSchema,
  keptAssaySchema,
  packFireflies,
  packTiles,
  unpackFireflies,
  unpackTiles,
  type Finding,
  type KeptAssay,
  type KeptTiles,
} from '@mint-tally/core';
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

/** The tiles of one frame of a pass. */
export interface AssayedTiles extends KeptTiles {
  readonly pass: string;
  readonly frame: number;
}

/** Rows of tiles that are written at a time: some megabytes of a large picture. */
const ROWS_AT_ONCE = 50;

/** Keeps an assay in place of the one before. */
export async function saveAssay(
  inside: Transaction,
  shotId: number,
  { briefId, content }: AssaySubject,
  assay: KeptAssay,
  tiles: readonly AssayedTiles[],
  findings: readonly Finding[],
  actor: string,
): Promise<void> {
  const written = findings.map((finding) => ({ ...finding, frames: finding.frames.toString() }));
  await inside.change('REPLACE INTO assays (shot_id, brief_id, content, assayed_at, actor, body, findings) VALUES (?, ?, ?, ?, ?, ?, ?)', [
    ...[shotId, briefId, content, new Date(), actor],
    ...[JSON.stringify(assay), JSON.stringify(written)],
  ]);
  await inside.change('DELETE FROM assay_tiles WHERE shot_id = ?', [shotId]);
  for (let i = 0; i < tiles.length; i += ROWS_AT_ONCE) {
    const rows = tiles.slice(i, i + ROWS_AT_ONCE);
    await inside.change(
      `INSERT INTO assay_tiles (shot_id, pass, frame, width, height, tiles, fireflies) VALUES ${rows.map(() => '(?, ?, ?, ?, ?, ?, ?)').join(', ')}`,
      rows.flatMap((row) => {
        const fireflies = packFireflies(row);
        return [shotId, row.pass, row.frame, row.width, row.height, Buffer.from(packTiles(row)), fireflies && Buffer.from(fireflies)];
      }),
    );
  }
  await touchShot(inside, shotId);
}

/** The tiles of the newest assay: of one frame, of a pass, or of all of them in their order. */
export async function readAssayTiles(on: Queryable, shotId: number, only: { readonly pass: string; readonly frame?: number } | null): Promise<AssayedTiles[]> {
  const rows = await on.rows(
    `SELECT pass, frame, width, height, tiles, fireflies FROM assay_tiles WHERE shot_id = ? ${only ? 'AND pass = ?' : ''} ${only?.frame === undefined ? '' : 'AND frame = ?'} ORDER BY pass, frame`,
    [shotId, ...(only ? [only.pass] : []), ...(only?.frame === undefined ? [] : [only.frame])],
  );
  return rows.flatMap((row) => {
    const [pass, frame, width, height] = [row.pass as string, row.frame as number, row.width as number, row.height as number];
    const tiles = unpackTiles(row.tiles as Buffer, { width, height });
    const fireflies = row.fireflies === null ? null : unpackFireflies(row.fireflies as Buffer, { width, height });
    return tiles ? [{ pass, frame, ...tiles, fireflies }] : [];
  });
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
