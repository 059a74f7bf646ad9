import { copyFileSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseBrief } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeDatabase, MIGRATIONS } from '../../../tests/support/database.ts';
import { splitScript } from '../src/database.ts';
import { createShot, ensureProject, migrate, newestFindings, newestTally, openDatabase, saveBrief, StoreError, type Database } from '../src/index.ts';

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

  it('call gradients in steps by their one name, wherever they were kept', async () => {
    const database = await empty();
    const before = mkdtempSync(path.join(os.tmpdir(), 'mint-before-'));
    for (const file of readdirSync(MIGRATIONS)) if (file < '0026') copyFileSync(path.join(MIGRATIONS, file), path.join(before, file));
    await migrate(database, before);
    rmSync(before, { recursive: true });
    const projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
    const shotId = await createShot(database, { projectId, name: 'orr_010', note: '', root: 'demo', folder: 'orr_010' }, 'ada');
    const brief = parseBrief({ shot: 's', range: '1-2', passes: [{ name: 'beauty', pattern: 'b.####.png' }] });
    const briefId = await database.transaction(async (inside) => {
      await saveBrief(inside, shotId, brief, 'ada');
      return (await inside.rows('SELECT MAX(id) AS id FROM briefs'))[0]!.id as number;
    });
    await database.change('UPDATE briefs SET body = JSON_SET(body, "$.checks", JSON_OBJECT("off", JSON_ARRAY("stepped-gradient")))', []);
    const finding = '[{"code":"stepped-gradient","message":"stepped-gradient in words"}]';
    await database.change('INSERT INTO assays (shot_id, brief_id, content, assayed_at, actor, body, findings) VALUES (?, ?, ?, UTC_TIMESTAMP(3), ?, ?, ?)', [
      shotId,
      briefId,
      'ab'.repeat(32),
      'ada',
      '{}',
      finding,
    ]);
    expect(await migrate(database, MIGRATIONS)).toContain('0026-banding');
    const [assay] = await database.rows('SELECT findings FROM assays');
    expect(JSON.parse(assay!.findings as string)).toEqual([{ code: 'banding', message: 'stepped-gradient in words' }]);
    const [kept] = await database.rows('SELECT body FROM briefs');
    expect(JSON.parse(kept!.body as string)).toMatchObject({ checks: { off: ['banding'] } });
  });

  it('go on after a fall between any statement and its record', async () => {
    const whole = await empty();
    const files = readdirSync(MIGRATIONS).sort();
    const upTo = mkdtempSync(path.join(folder, 'up-to-'));
    let before: string[] = [];
    for (const [i, file] of files.entries()) {
      copyFileSync(path.join(MIGRATIONS, file), path.join(upTo, file));
      await migrate(whole, upTo);
      const after = await schemaOf(whole);
      const rows = await whole.rows('SELECT number, name, checksum FROM migrations ORDER BY number');
      const statements = splitScript(readFileSync(path.join(MIGRATIONS, file), 'utf8'));
      for (const [made, last] of statements.entries()) {
        // What changes rows is recorded together with them, so no fall comes between.
        if (/^(INSERT|UPDATE|DELETE)/.test(last)) continue;
        const fallen = await empty();
        await fallen.script(['SET FOREIGN_KEY_CHECKS = 0', ...before, 'SET FOREIGN_KEY_CHECKS = 1', ...statements.slice(0, made + 1), ''].join(';\n'));
        if (i === 0) await migrate(fallen, mkdtempSync(path.join(folder, 'none-')));
        const record = 'INSERT INTO migrations VALUES (?, ?, ?, UTC_TIMESTAMP(3), ?)';
        for (const { number, name, checksum } of rows) await fallen.change(record, [number, name, checksum, number === i + 1 ? made : null]);
        expect(await migrate(fallen, upTo), `${file} after ${made + 1}`).toEqual([file.replace('.sql', '')]);
        expect(await schemaOf(fallen), `${file} after ${made + 1}`).toEqual(after);
        await fallen.close();
        databases.pop();
      }
      before = after;
    }
  });

  it('keep what was counted before tallies stood in parts', async () => {
    const database = await empty();
    const before = mkdtempSync(path.join(folder, 'before-'));
    for (const name of readdirSync(MIGRATIONS).filter((file) => file < '0012')) copyFileSync(path.join(MIGRATIONS, name), path.join(before, name));
    await migrate(database, before);
    const projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
    const shot = await createShot(database, { projectId, name: 'orr_010', note: '', root: 'demo', folder: 'orr_010' }, 'ada');
    const brief = parseBrief({ shot: 'orr_010', range: '1-40', passes: [{ name: 'beauty', pattern: 'b.####.exr' }] });
    const { id: briefId } = await database.transaction((inside) => saveBrief(inside, shot, brief, 'ada'));
    const files = Array.from({ length: 25 }, (_, i) => `b.${String(i + 1).padStart(4, '0')}.exr`);
    const findings = [
      { code: 'truncated', severity: 'blocker', family: 'soundness', pass: 'beauty', frames: '1-25', detail: '', message: '25 files.', moreFiles: 3 },
      {
        code: 'stray-file',
        severity: 'note',
        family: 'count',
        pass: null,
        frames: '',
        detail: 'x',
        message: '25 “files” that belong to no pass.',
        moreFiles: 0,
      },
    ].map((finding) => ({ ...finding, files, evidence: files.map((file) => ({ file, message: 'It ends too soon.' })) }));
    const passes = [{ name: 'beauty', expected: 40, sound: 14, missing: '26', broken: '1-25', unexpected: '' }];
    await database.change(
      `INSERT INTO tallies (shot_id, brief_id, body, files, bytes, opened, content, counted_at, actor) VALUES (?, ?, ?, 25, 1, 25, 'c', UTC_TIMESTAMP(3), 'ada')`,
      [shot, briefId, JSON.stringify({ ready: false, level: 'headers', passes, findings })],
    );
    await migrate(database, MIGRATIONS);
    const { tally, ...count } = (await newestTally(database, shot))!;
    expect(JSON.parse(JSON.stringify(tally))).toEqual({ ready: false, level: 'headers', passes, findings });
    expect(count).toMatchObject({ expected: 40, sound: 14, blockers: 1, findings: 2 });
    expect((await newestFindings(database, shot))!.map((finding) => [finding.files.length, finding.moreFiles])).toEqual([
      [20, 8],
      [25, 0],
    ]);
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
