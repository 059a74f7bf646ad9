import { copyFileSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeDatabase, MIGRATIONS } from '../../../tests/support/database.ts';
import { migrate, openDatabase, StoreError, type Database } from '../src/index.ts';

let folder: string;
const databases: Database[] = [];

async function empty(): Promise<Database & { url: string }> {
  const database = await makeDatabase({ migrated: false });
  databases.push(database);
  return database;
}

beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'mint-migrations-'));
  for (const file of readdirSync(MIGRATIONS)) copyFileSync(path.join(MIGRATIONS, file), path.join(folder, file));
});
afterAll(async () => {
  for (const database of databases) await database.close();
  rmSync(folder, { recursive: true, force: true });
});

describe('migrations', () => {
  it('are applied in order, once, and recorded', async () => {
    const database = await empty();
    const names = readdirSync(MIGRATIONS)
      .sort()
      .map((file) => file.replace('.sql', ''));
    expect(await migrate(database, MIGRATIONS)).toEqual(names);
    expect(await migrate(database, MIGRATIONS)).toEqual([]);
    const rows = await database.rows('SELECT name FROM migrations ORDER BY number');
    expect(rows.map((row) => row.name)).toEqual(names);
  });

  it('are applied once by several processes that start together', async () => {
    const database = await empty();
    const others = [openDatabase(database.url), openDatabase(database.url)];
    databases.push(...others);
    const applied = await Promise.all([database, ...others].map((one) => migrate(one, MIGRATIONS)));
    expect(applied.flat().sort()).toEqual(
      readdirSync(MIGRATIONS)
        .map((file) => file.replace('.sql', ''))
        .sort(),
    );
  });

  it('refuse a file that changed after it was applied', async () => {
    const database = await empty();
    writeFileSync(path.join(folder, '0900-extra.sql'), 'CREATE TABLE extra (id INT);\n');
    await migrate(database, folder);
    writeFileSync(path.join(folder, '0900-extra.sql'), 'CREATE TABLE extra (id BIGINT);\n');
    await expect(migrate(database, folder)).rejects.toThrow(/has changed since it was applied/);
  });

  it('refuse a database that a newer version made', async () => {
    const database = await empty();
    writeFileSync(path.join(folder, '0900-extra.sql'), 'CREATE TABLE extra (id INT);\n');
    await migrate(database, folder);
    await expect(migrate(database, MIGRATIONS)).rejects.toThrow(/does not know/);
  });
});

describe('the address', () => {
  it.each(['', 'not an address', 'http://127.0.0.1/x', 'mysql://127.0.0.1'])('is refused when it is “%s”', (url) => {
    expect(() => openDatabase(url)).toThrow(StoreError);
  });
});
