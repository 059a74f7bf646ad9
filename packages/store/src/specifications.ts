import { specificationSchema, type Specification } from '@mint-tally/core';
import type { Queryable } from './database.ts';

/** Saves a specification under its name, in place of one that had it. */
export async function saveSpecification(on: Queryable, projectId: number, specification: Specification, actor: string): Promise<void> {
  await on.change(
    `INSERT INTO specifications (project_id, name, body, saved_at, actor) VALUES (?, ?, ?, UTC_TIMESTAMP(3), ?)
       ON DUPLICATE KEY UPDATE body = VALUES(body), saved_at = VALUES(saved_at), actor = VALUES(actor)`,
    [projectId, specification.name, JSON.stringify(specification), actor],
  );
}

/** The specifications of a project, by name. */
export async function listSpecifications(on: Queryable, projectId: number): Promise<Specification[]> {
  const rows = await on.rows('SELECT body FROM specifications WHERE project_id = ? ORDER BY name', [projectId]);
  return rows.map((row) => specificationSchema.parse(JSON.parse(row.body)));
}

/** Deletes a specification. Briefs that follow it keep its name, and say that it is not saved here. */
export async function removeSpecification(on: Queryable, projectId: number, name: string): Promise<void> {
  await on.change('DELETE FROM specifications WHERE project_id = ? AND name = ?', [projectId, name]);
}

/** The shots whose newest brief follows a specification, by name. */
export async function listFollowers(on: Queryable, projectId: number, name: string): Promise<string[]> {
  const rows = await on.rows(
    `SELECT shots.name FROM shots JOIN briefs ON briefs.shot_id = shots.id
      WHERE project_id = ? AND version = (SELECT MAX(version) FROM briefs AS other WHERE other.shot_id = shots.id) AND JSON_VALUE(body, '$.follows') = ?
      ORDER BY shots.name`,
    [projectId, name],
  );
  return rows.map((row) => row.name as string);
}
