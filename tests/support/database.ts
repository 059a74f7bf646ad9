import path from 'node:path';
import { projectFolder } from '@mint-tally/engine';
import { migrate, openDatabase, type Database } from '@mint-tally/store';
import { inject } from 'vitest';

export const MIGRATIONS = path.join(projectFolder(), 'packages', 'store', 'migrations');

/** A database of its own for one test file, empty or with the newest schema. */
export async function makeDatabase(options: { migrated: boolean } = { migrated: true }): Promise<Database & { url: string }> {
  const server = openDatabase(inject('databaseUrl'));
  const name = `mint_tally_test_${process.pid}_${Math.random().toString(36).slice(2)}`;
  await server.script(`CREATE DATABASE ${name} CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;`);
  await server.close();
  const url = new URL(inject('databaseUrl'));
  url.pathname = `/${name}`;
  const database = openDatabase(url.href);
  if (options.migrated) await migrate(database, MIGRATIONS);
  return { ...database, url: url.href };
}
