import { MintError } from '@mint-tally/core';
import { isDuplicate, type Queryable, type Transaction } from './database.ts';

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
    await on.change('UPDATE shots SET name = ?, note = ?, revision = revision + 1 WHERE id = ?', [name, note, id]);
  } catch (thrown) {
    throw isDuplicate(thrown) ? new ShotNameTakenError(name) : thrown;
  }
}

/** Notes that something has changed which a count or a package of the shot stands on. */
export async function touchShot(on: Queryable, id: number): Promise<void> {
  await on.change('UPDATE shots SET revision = revision + 1 WHERE id = ?', [id]);
}

/** What hangs on a shot, and goes with it when it is deleted. */
export interface ShotHoldings {
  readonly briefs: number;
  readonly counts: number;
  readonly waivers: number;
  readonly packages: number;
  readonly batches: number;
  /** Merges that could still be taken back. */
  readonly merges: number;
  /** What goes on for it that changes files or has them changed; while it does, the shot cannot be deleted. */
  readonly goesOn: readonly string[];
}

export async function readShotHoldings(on: Queryable, id: number): Promise<ShotHoldings> {
  const row = (
    await on.rows(
      `SELECT (SELECT COUNT(*) FROM briefs WHERE shot_id = ?) AS briefs, (SELECT COUNT(*) FROM tallies WHERE shot_id = ?) AS counts,
            (SELECT COUNT(*) FROM waivers WHERE shot_id = ? AND withdrawn_at IS NULL) AS waivers, (SELECT COUNT(*) FROM packages WHERE shot_id = ?) AS packages,
            (SELECT COUNT(*) FROM batches WHERE shot_id = ?) AS batches,
            (SELECT COUNT(*) FROM merges WHERE shot_id = ? AND state IN ('running', 'done', 'undoing')) AS merges`,
      [id, id, id, id, id, id],
    )
  )[0]!;
  const jobs = await on.rows("SELECT DISTINCT kind FROM jobs WHERE shot_id = ? AND state = 'running' AND kind IN ('render', 'merge', 'package')", [id]);
  return {
    briefs: row.briefs,
    counts: row.counts,
    waivers: row.waivers,
    packages: row.packages,
    batches: row.batches,
    merges: row.merges,
    goesOn: jobs.map(({ kind }) => kind as string),
  };
}

/** Raised when a shot cannot be deleted because something goes on for it. */
export class ShotBusyError extends MintError {
  constructor(goesOn: readonly string[]) {
    const words: Record<string, string> = { render: 'a batch goes on', merge: 'a merge goes on', package: 'a package is being written' };
    super('shot-busy', `The shot cannot be deleted while ${goesOn.map((kind) => words[kind] ?? kind).join(' and ')}.`, {
      remedy: 'Stop it first, or let it end.',
    });
  }
}

/**
 * Forgets a shot and everything known of it. Files on disk are not touched.
 *
 * @throws ShotBusyError
 */
export async function removeShot(inside: Transaction, id: number): Promise<void> {
  // Nothing can be asked for meanwhile.
  await inside.rows('SELECT id FROM shots WHERE id = ? FOR UPDATE', [id]);
  const { goesOn } = await readShotHoldings(inside, id);
  if (goesOn.length > 0) throw new ShotBusyError(goesOn);
  await inside.change('DELETE FROM shots WHERE id = ?', [id]);
}
