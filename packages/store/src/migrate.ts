import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { StoreError, type Database } from './database.ts';

/** A numbered change of the schema. */
interface Migration {
  readonly number: number;
  readonly name: string;
  readonly sql: string;
  readonly checksum: string;
}

/**
 * Brings the schema up to date: applies the numbered .sql files that have not been applied, once
 * each and in order, and records them. Safe to call from several processes at once.
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
     ) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;`,
  );
  // The lock belongs to a connection, so a transaction keeps one for the whole time.
  return database.transaction(async (lock) => {
    const [{ got }] = await lock.rows("SELECT GET_LOCK('mint_tally_migrations', 60) AS got");
    if (got !== 1) throw new StoreError('Another process has been changing the schema for a minute.', { remedy: 'Wait for it, then start again.' });
    try {
      return await applyNew(database, migrations);
    } finally {
      await lock.rows("SELECT RELEASE_LOCK('mint_tally_migrations')");
    }
  });
}

async function applyNew(database: Database, migrations: readonly Migration[]): Promise<string[]> {
  const rows = await database.rows('SELECT number, name, checksum FROM migrations ORDER BY number');
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
    if (applied.has(migration.number)) continue;
    await database.script(migration.sql);
    await database.change('INSERT INTO migrations (number, name, checksum, applied_at) VALUES (?, ?, ?, UTC_TIMESTAMP(3))', [
      migration.number,
      migration.name,
      migration.checksum,
    ]);
    names.push(migration.name);
  }
  return names;
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
