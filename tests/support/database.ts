import path from 'node:path';
import { projectFolder } from '@mint-tally/engine';
import { migrate, openDatabase, type Database } from '@mint-tally/store';
import { inject } from 'vitest';
import { emptyDatabaseOn } from './shared-server.ts';

export const MIGRATIONS = path.join(projectFolder(), 'packages', 'store', 'migrations');

/** A database of its own for one test file, empty or with the newest schema. */
export async function makeDatabase(options: { migrated: boolean } = { migrated: true }): Promise<Database & { url: string }> {
  const url = await emptyDatabaseOn(inject('databaseUrl'));
  const database = openDatabase(url);
  if (options.migrated) await migrate(database, MIGRATIONS);
  return { ...database, url };
}
