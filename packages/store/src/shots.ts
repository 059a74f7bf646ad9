import { MintError } from '@mint-tally/core';
import { isDuplicate, type Queryable } from './database.ts';

/** A shot: a name, and the folder that its frames are in. */
export interface Shot {
  readonly id: number;
  readonly projectId: number;
  readonly name: string;
  readonly note: string;
  readonly root: string;
  /** Relative to the root. */
  readonly folder: string;
}

/** Raised when a shot's name is taken in its project. */
export class ShotNameTakenError extends MintError {
  constructor(name: string) {
    super('shot-name-taken', `There is a shot called ${name} already.`, { subject: name, remedy: 'Give this one another name.' });
  }
}

const COLUMNS = 'id, project_id AS projectId, name, note, root, folder';

/** @throws ShotNameTakenError */
export async function createShot(on: Queryable, shot: Omit<Shot, 'id'>, actor: string): Promise<number> {
  try {
    const { insertedId } = await on.change(
      'INSERT INTO shots (project_id, name, note, root, folder, created_at, actor) VALUES (?, ?, ?, ?, ?, UTC_TIMESTAMP(3), ?)',
      [shot.projectId, shot.name, shot.note, shot.root, shot.folder, actor],
    );
    return insertedId;
  } catch (thrown) {
    throw isDuplicate(thrown) ? new ShotNameTakenError(shot.name) : thrown;
  }
}

/** Shots of a project, by name. */
export async function listShots(on: Queryable, projectId: number): Promise<Shot[]> {
  return (await on.rows(`SELECT ${COLUMNS} FROM shots WHERE project_id = ? ORDER BY name`, [projectId])) as unknown as Shot[];
}

export async function findShot(on: Queryable, id: number): Promise<Shot | null> {
  const [row] = await on.rows(`SELECT ${COLUMNS} FROM shots WHERE id = ?`, [id]);
  return (row as Shot | undefined) ?? null;
}

/** Changes a shot's name and note. @throws ShotNameTakenError */
export async function renameShot(on: Queryable, id: number, name: string, note: string): Promise<void> {
  try {
    await on.change('UPDATE shots SET name = ?, note = ? WHERE id = ?', [name, note, id]);
  } catch (thrown) {
    throw isDuplicate(thrown) ? new ShotNameTakenError(name) : thrown;
  }
}

/** Notes that something has changed which a count or a package of the shot stands on. */
export async function touchShot(on: Queryable, id: number): Promise<void> {
  await on.change('UPDATE shots SET revision = revision + 1 WHERE id = ?', [id]);
}

/** Forgets a shot and everything known of it. Files on disk are not touched. */
export async function removeShot(on: Queryable, id: number): Promise<void> {
  await on.change('DELETE FROM shots WHERE id = ?', [id]);
}
