import * as z from 'zod';
import type { Database, Queryable } from './database.ts';
import { readSetting, writeSetting } from './projects.ts';

/** Rows that are taken away at a time, so that nobody waits for long. */
const AT_ONCE = 2000;

/**
 * Takes away what was recorded of jobs and batches that ended before a moment. Of each kind and shot the
 * newest stays: pages show what became of it.
 *
 * @returns how many rows went
 */
export async function forgetOldRecords(on: Queryable, before: Date): Promise<{ jobs: number; lines: number; previews: number }> {
  const jobs = await inPieces(
    on,
    `DELETE FROM jobs WHERE state IN ('done', 'failed', 'cancelled') AND finished_at < ?
       AND id NOT IN (SELECT id FROM (SELECT MAX(id) AS id FROM jobs GROUP BY shot_id, kind, state) AS newest) LIMIT ${AT_ONCE}`,
    before,
  );
  const lines = await inPieces(
    on,
    `DELETE FROM batch_lines WHERE batch_id IN (SELECT id FROM batches WHERE ended_at < ?
       AND id NOT IN (SELECT MAX(id) FROM batches GROUP BY shot_id)) LIMIT ${AT_ONCE}`,
    before,
  );
  // A preview that was never carried out has changed nothing.
  const previews = await inPieces(
    on,
    `DELETE FROM merges WHERE state IN ('previewing', 'previewed') AND created_at < ?
       AND id NOT IN (SELECT id FROM (SELECT MAX(id) AS id FROM merges GROUP BY shot_id) AS newest) LIMIT 50`,
    before,
  );
  return { jobs, lines, previews };
}

async function inPieces(on: Queryable, sql: string, before: Date): Promise<number> {
  for (let sum = 0; ;) {
    const { affected } = await on.change(sql, [before]);
    sum += affected;
    if (affected === 0) return sum;
  }
}

/** Which of these checksums belong to a file that is known. */
export async function knownContents(on: Queryable, sha256: readonly string[]): Promise<Set<string>> {
  if (sha256.length === 0) return new Set();
  const rows = await on.rows(`SELECT DISTINCT sha256 FROM file_facts WHERE sha256 IN (${sha256.map(() => '?').join()})`, [...sha256]);
  return new Set(rows.map((row) => row.sha256 as string));
}

/** Where the files of every shot stand. */
export async function listShotPlaces(on: Queryable): Promise<{ id: number; root: string; folder: string }[]> {
  const rows = await on.rows('SELECT id, root, folder FROM shots ORDER BY id');
  return rows.map((row) => ({ id: row.id as number, root: row.root as string, folder: row.folder as string }));
}

const amountSchema = z.object({ files: z.number(), bytes: z.number() });
const houseSchema = z.object({
  /** Milliseconds since 1970. */
  at: z.number(),
  pictures: amountSchema,
  setAside: z.array(amountSchema.extend({ shotId: z.number(), says: z.string(), goesAt: z.number() })),
  records: z.object({ jobs: z.number(), lines: z.number(), previews: z.number() }),
  /** What went this time. */
  gone: z.object({ pictures: amountSchema, setAside: amountSchema, unfinished: z.number() }),
});
/** What Mint Tally itself keeps on disk, as the last look at it found. */
export type House = z.output<typeof houseSchema>;

const SETTING = 'house';

export async function saveHouse(on: Queryable, house: House): Promise<void> {
  await writeSetting(on, SETTING, JSON.stringify(house));
}

/** Null before the first look, or when another version wrote it down. */
export async function readHouse(on: Queryable): Promise<House | null> {
  const text = await readSetting(on, SETTING);
  if (text === null) return null;
  const parsed = houseSchema.safeParse(JSON.parse(text));
  return parsed.success ? parsed.data : null;
}

/**
 * Does something that one engine at a time does, on whatever machine.
 *
 * @returns false when another is at it
 */
export async function aloneInTheHouse(database: Database, work: () => Promise<void>): Promise<boolean> {
  // The lock belongs to the connection, and goes with it.
  const connection = await database.dedicated();
  try {
    const { got } = (await connection.rows("SELECT GET_LOCK(CONCAT('mint_tally_house_', DATABASE()), 0) AS got"))[0]!;
    if (got !== 1) return false;
    await work();
    return true;
  } finally {
    connection.close();
  }
}

/** Folders in which packages were written or tried, by root. */
export async function listPackagePlaces(on: Queryable): Promise<{ root: string; folder: string }[]> {
  const rows = await on.rows(
    "SELECT DISTINCT JSON_VALUE(payload, '$.root') AS root, JSON_VALUE(payload, '$.folder') AS folder FROM jobs WHERE kind = 'package' AND state <> 'running'",
  );
  return rows.map((row) => ({ root: String(row.root), folder: String(row.folder) }));
}
