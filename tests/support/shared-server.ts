import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { startOwnServer } from '@mint-tally/launch';
import { openDatabase } from '@mint-tally/store';

/** One real MariaDB for many tests, on loopback, thrown away when it is stopped. */
export async function startSharedServer(): Promise<{ readonly url: string; stop(): Promise<void> }> {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'mint-database-'));
  const server = await startOwnServer(folder, () => undefined);
  return {
    url: server.url,
    async stop() {
      await server.stop();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

/** Makes an empty database on it that nobody else uses. @returns its address */
export async function emptyDatabaseOn(serverUrl: string): Promise<string> {
  const server = openDatabase(serverUrl);
  const name = `mint_tally_test_${process.pid}_${Math.random().toString(36).slice(2)}`;
  await server.script(`CREATE DATABASE ${name} CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;`);
  await server.close();
  const url = new URL(serverUrl);
  url.pathname = `/${name}`;
  return url.href;
}
