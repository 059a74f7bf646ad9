import { copyFileSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeDatabase, MIGRATIONS } from '../../../tests/support/database.ts';
import { splitScript } from '../src/database.ts';
import { migrate, openDatabase, StoreError, type Database } from '../src/index.ts';

let folder: string;
const databases: Database[] = [];

async function empty(): Promise<Database & { url: string }> {
  const database = await makeDatabase({ migrated: false });
  databases.push(database);
  return database;
}

/** Every table as the server itself would make it. */
async function schemaOf(database: Database): Promise<string[]> {
  const tables = await database.rows('SELECT table_name AS name FROM information_schema.tables WHERE table_schema = DATABASE() ORDER BY table_name');
  const made: string[] = [];
  for (const { name } of tables) made.push((await database.rows(`SHOW CREATE TABLE ${name}`))[0]['Create Table'].replace(/ AUTO_INCREMENT=\d+/, ''));
  return made;
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

  it('go on after a fall between any statement and its record', async () => {
    const whole = await empty();
    await migrate(whole, MIGRATIONS);
    const files = readdirSync(MIGRATIONS).sort();
    const statementsOf = (file: string) => splitScript(readFileSync(path.join(MIGRATIONS, file), 'utf8'));
    const wanted = await schemaOf(whole);
    for (const [i, file] of files.entries()) {
      const before = mkdtempSync(path.join(folder, 'before-'));
      for (const name of files.slice(0, i)) copyFileSync(path.join(MIGRATIONS, name), path.join(before, name));
      for (let made = 1; made <= statementsOf(file).length; made++) {
        const fallen = await empty();
        await migrate(fallen, before);
        for (const statement of statementsOf(file).slice(0, made)) await fallen.script(`${statement};`);
        expect(await migrate(fallen, MIGRATIONS), `${file} after ${made}`).toContain(file.replace('.sql', ''));
        expect(await schemaOf(fallen), `${file} after ${made}`).toEqual(wanted);
        await fallen.close();
        databases.pop();
      }
    }
  });

  it('do not take a table of somebody else for their own', async () => {
    const database = await empty();
    await database.script('CREATE TABLE shots (id INT, title VARCHAR(10));');
    await expect(migrate(database, MIGRATIONS)).rejects.toThrow(/Migration 0001-shots-and-counts cannot be applied/);
    await database.script('DROP TABLE shots;');
    await migrate(database, MIGRATIONS);
  });

  it('that change rows are done once, whatever happens', async () => {
    const database = await empty();
    const file = path.join(folder, '0900-extra.sql');
    writeFileSync(file, 'CREATE TABLE extra (id INT);\nINSERT INTO extra VALUES (1);\nALTER TABLE nowhere ADD COLUMN x INT;\n');
    await expect(migrate(database, folder)).rejects.toThrow(/nowhere/);
    await database.script('CREATE TABLE nowhere (id INT);');
    await migrate(database, folder);
    expect(await database.rows('SELECT id FROM extra')).toHaveLength(1);
    rmSync(file);
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
