import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { splitScript, StoreError, type Database, type Queryable } from './database.ts';

/** A numbered change of the schema. */
interface Migration {
  readonly number: number;
  readonly name: string;
  readonly sql: string;
  readonly checksum: string;
}

/**
 * Brings the schema up to date: applies the numbered .sql files that have not been applied, once
 * each and in order, and records them. Safe to call from several processes at once, and again after a
 * fall at any point.
 *
 * @param folder of the .sql files
 * @returns the names of those that were applied now
 * @throws StoreError when a file that was applied has changed since, or the database is newer
 */
export async function migrate(database: Database, folder: string): Promise<string[]> {
  const migrations = readMigrations(folder);
  await database.script(
    `CREATE TABLE IF NOT EXISTS migrations (
       number INT UNSIGNED NOT NULL PRIMARY KEY, name VARCHAR(200) NOT NULL,
       checksum CHAR(64) CHARACTER SET ascii NOT NULL, applied_at DATETIME(3) NOT NULL
     ) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
     ALTER TABLE migrations ADD COLUMN IF NOT EXISTS statements INT UNSIGNED NULL COMMENT 'how many are done; null when all are';`,
  );
  // The lock belongs to a connection, so a transaction keeps one for the whole time.
  return database.transaction(async (lock) => {
    const { got } = (await lock.rows("SELECT GET_LOCK('mint_tally_migrations', 60) AS got"))[0]!;
    if (got !== 1) throw new StoreError('Another process has been changing the schema for a minute.', { remedy: 'Wait for it, then start again.' });
    try {
      return await applyNew(database, migrations);
    } finally {
      await lock.rows("SELECT RELEASE_LOCK('mint_tally_migrations')");
    }
  });
}

async function applyNew(database: Database, migrations: readonly Migration[]): Promise<string[]> {
  const rows = await database.rows('SELECT number, name, checksum, statements FROM migrations ORDER BY number');
  const applied = new Map(rows.map((row) => [row.number as number, row]));
  for (const [number, row] of applied) {
    const migration = migrations.find((candidate) => candidate.number === number);
    if (!migration)
      throw new StoreError(`The database has migration ${row.name}, which this version does not know.`, { remedy: 'Start the newer version that made it.' });
    if (migration.checksum !== row.checksum)
      throw new StoreError(`Migration ${row.name} has changed since it was applied.`, { remedy: 'Restore the file; write a new migration instead.' });
  }
  const names: string[] = [];
  for (const migration of migrations) {
    const row = applied.get(migration.number);
    if (row && row.statements === null) continue;
    await apply(database, migration, (row?.statements as number | undefined) ?? 0);
    names.push(migration.name);
  }
  return names;
}

/**
 * Applies a migration from one of its statements on. Changes of tables take effect one by one and at
 * once, so how many are done is written down after each; the one at which an earlier try fell may have
 * been done without that, and is then known by what it says.
 */
async function apply(database: Database, { number, name, sql, checksum }: Migration, done: number): Promise<void> {
  const statements = splitScript(sql);
  const note = (on: Queryable, count: number) =>
    on.change(
      `INSERT INTO migrations (number, name, checksum, applied_at, statements) VALUES (?, ?, ?, UTC_TIMESTAMP(3), ?)
         ON DUPLICATE KEY UPDATE applied_at = VALUES(applied_at), statements = VALUES(statements)`,
      [number, name, checksum, count === statements.length ? null : count],
    );
  for (const [i, statement] of statements.entries()) {
    if (i < done) continue;
    if (/^(INSERT|UPDATE|DELETE)\b/i.test(statement)) {
      await database.transaction(async (inside) => {
        await inside.change(statement);
        await note(inside, i + 1);
      });
      continue;
    }
    await database.script(`${statement};`).catch((thrown: unknown) => passWhenDone(database, name, statement, thrown));
    await note(database, i + 1);
  }
}

/** What a server says of a change that has been made already. */
const DONE_ALREADY: ReadonlySet<string> = new Set([
  'ER_TABLE_EXISTS_ERROR',
  'ER_DUP_FIELDNAME',
  'ER_DUP_KEYNAME',
  'ER_CANT_DROP_FIELD_OR_KEY',
  'ER_BAD_FIELD_ERROR',
]);

/** A statement that was done by a try that fell before it could say so is passed over; what it made must be there, and what it dropped gone. */
async function passWhenDone(database: Database, migration: string, statement: string, thrown: unknown): Promise<void> {
  const { code = '', message = '' } = thrown as { code?: string; message?: string };
  const [, table = ''] = /^(?:CREATE|ALTER) TABLE (\w+)/.exec(statement) ?? [];
  const made = namesMade(statement);
  const dropped = [...statement.matchAll(/DROP COLUMN ([a-z][a-z0-9_]*)/g)].map(([, column]) => column!);
  if (DONE_ALREADY.has(code) && made.length + dropped.length > 0) {
    const rows = await database.rows(
      `SELECT column_name AS name FROM information_schema.columns WHERE table_schema = DATABASE() AND table_name = ?
       UNION SELECT index_name FROM information_schema.statistics WHERE table_schema = DATABASE() AND table_name = ?`,
      [table, table],
    );
    const there = new Set(rows.map((row) => String(row.name).toLowerCase()));
    if (made.every((name) => there.has(name)) && !dropped.some((name) => there.has(name))) return;
  }
  throw new StoreError(`Migration ${migration} cannot be applied: ${message}`, {
    remedy: table === '' ? 'Look at the database.' : `Look at the table ${table} of the database: it is not the one that Mint Tally makes.`,
    cause: thrown,
  });
}

/** The columns and keys that are there once a statement has been done; each stands on a line of its own. */
function namesMade(statement: string): string[] {
  const pattern = statement.startsWith('CREATE')
    ? /^\s+([a-z][a-z0-9_]*) [A-Z]/gm
    : /(?:ADD COLUMN|ADD KEY|ADD UNIQUE KEY|CHANGE [a-z0-9_]+) ([a-z][a-z0-9_]*)/g;
  return [...statement.matchAll(pattern)].map(([, name]) => name!);
}

function readMigrations(folder: string): Migration[] {
  return readdirSync(folder)
    .filter((file) => /^\d{4}-.+\.sql$/.test(file))
    .sort()
    .map((file) => {
      const sql = readFileSync(path.join(folder, file), 'utf8');
      return { number: Number(file.slice(0, 4)), name: file.slice(0, -4), sql, checksum: createHash('sha256').update(sql).digest('hex') };
    });
}
