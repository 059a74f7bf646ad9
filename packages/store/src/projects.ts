import type { Queryable } from './database.ts';

export interface Project {
  readonly id: number;
  readonly name: string;
}

/** The project that the application shows; made under this name when there is none. */
export async function ensureProject(on: Queryable, name: string, actor: string): Promise<Project> {
  const found = await firstProject(on);
  if (found) return found;
  const { insertedId } = await on.change('INSERT INTO projects (name, created_at, actor) VALUES (?, UTC_TIMESTAMP(3), ?)', [name, actor]);
  return { id: insertedId, name };
}

/** The oldest project, or null in an empty database. */
export async function firstProject(on: Queryable): Promise<Project | null> {
  const [row] = await on.rows('SELECT id, name FROM projects ORDER BY id LIMIT 1');
  return row ? { id: row.id, name: row.name } : null;
}

/** A remembered word, such as whether the demo has been set up. */
export async function readSetting(on: Queryable, name: string): Promise<string | null> {
  const [row] = await on.rows('SELECT value FROM settings WHERE name = ?', [name]);
  return row?.value ?? null;
}

export async function writeSetting(on: Queryable, name: string, value: string): Promise<void> {
  await on.change('INSERT INTO settings (name, value) VALUES (?, ?) ON DUPLICATE KEY UPDATE value = VALUES(value)', [name, value]);
}
