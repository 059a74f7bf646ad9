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
