import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { startOwnServer } from '@mint-tally/launch';
import type { TestProject } from 'vitest/node';

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string;
  }
}

/** One real MariaDB for all tests, on loopback, thrown away at the end. */
export default async function setup(project: TestProject) {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'mint-database-'));
  const server = await startOwnServer(folder, () => undefined);
  project.provide('databaseUrl', server.url);
  return async () => {
    await server.stop();
    rmSync(folder, { recursive: true, force: true });
  };
}
