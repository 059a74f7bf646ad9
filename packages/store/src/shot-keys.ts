import type { Queryable } from './database.ts';

/**
 * What stands for all that the pages of a shot are made from: brief, newest count, waivers, packages,
 * newest batch. While it is the same, so are they.
 */
const STATE_KEY = `CONCAT_WS(' ', revision,
  COALESCE((SELECT MAX(version) FROM briefs WHERE briefs.shot_id = shots.id), 0),
  COALESCE((SELECT MAX(id) FROM tallies WHERE tallies.shot_id = shots.id), 0),
  COALESCE((SELECT MAX(id) FROM packages WHERE packages.shot_id = shots.id AND packages.state = 'written'), 0),
  COALESCE((SELECT CONCAT(id, COALESCE(outcome, '-')) FROM batches WHERE batches.shot_id = shots.id ORDER BY id DESC LIMIT 1), 0))`;

/** The state key of a shot, or null when there is no such shot. */
export async function readStateKey(on: Queryable, shotId: number): Promise<string | null> {
  const [row] = await on.rows(`SELECT ${STATE_KEY} AS state_key FROM shots WHERE id = ?`, [shotId]);
  return (row?.state_key as string | undefined) ?? null;
}

/** A shot in the list: its key now, and the summary that was kept with the key that it was made for. */
export interface SummarisedShot {
  readonly id: number;
  readonly name: string;
  readonly note: string;
  readonly stateKey: string;
  readonly summary: { readonly stateKey: string; readonly body: string } | null;
}

/** The shots of a project by name, with what is kept for the list of them. */
export async function listSummaries(on: Queryable, projectId: number): Promise<SummarisedShot[]> {
  const rows = await on.rows(
    `SELECT shots.id, name, note, ${STATE_KEY} AS now_key, shot_summaries.state_key AS kept_key, body
       FROM shots LEFT JOIN shot_summaries ON shot_summaries.shot_id = shots.id WHERE project_id = ? ORDER BY name`,
    [projectId],
  );
  return rows.map((row) => ({
    id: row.id as number,
    name: row.name as string,
    note: row.note as string,
    stateKey: row.now_key as string,
    summary: row.kept_key === null ? null : { stateKey: row.kept_key as string, body: row.body as string },
  }));
}

/** Keeps a shot's summary with the key that it was made for. */
export async function saveSummary(on: Queryable, shotId: number, stateKey: string, body: string): Promise<void> {
  await on.change(
    `INSERT INTO shot_summaries (shot_id, state_key, body) SELECT id, ?, ? FROM shots WHERE id = ?
       ON DUPLICATE KEY UPDATE state_key = VALUES(state_key), body = VALUES(body)`,
    [stateKey, body, shotId],
  );
}
