import { spawn, type ChildProcess } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { test as base } from '@playwright/test';
import { findFreePort } from '@mint-tally/launch';
import { emptyDatabaseOn } from '../support/shared-server.ts';

/** Names the address of the database server that applications share. */
export const SHARED_DATABASE = 'MINT_TALLY_TESTS_DATABASE_URL';

const home = path.resolve(import.meta.dirname, '..', '..');

/** The whole application, started as `./mint start` starts it, on an empty data folder. */
export interface Application {
  readonly address: string;
  /** Frames may be put here; it is the root `shots`, which the application may write where a test says so. */
  readonly shots: string;
  /** The writable root `deliveries`. */
  readonly deliveries: string;
  /** Everything is below this; nothing outside the roots may be read. */
  readonly top: string;
  /** Address of its database on the server that all share; null where it has started a server of its own. */
  readonly database: string | null;
}

async function start({
  writable,
  ownDatabase,
}: {
  readonly writable: boolean;
  readonly ownDatabase: boolean;
}): Promise<{ application: Application; stop: () => Promise<number | null> }> {
  const top = mkdtempSync(path.join(os.tmpdir(), 'mint-application-'));
  const [shots, deliveries] = ['shots', 'deliveries'].map((name) => path.join(top, name));
  for (const folder of [shots, deliveries]) mkdirSync(folder);
  const config = path.join(top, 'config.json');
  writeFileSync(
    config,
    JSON.stringify({
      demo: false,
      workers: 2,
      roots: [
        { name: 'shots', path: shots, writable },
        { name: 'deliveries', path: deliveries, writable: true },
      ],
    }),
  );
  const port = await findFreePort();
  const database = ownDatabase ? null : await emptyDatabaseOn(process.env[SHARED_DATABASE]!);
  const child = spawn('node', ['build/services/start.js'], {
    cwd: home,
    env: {
      ...process.env,
      MINT_TALLY_HOME: home,
      MINT_TALLY_CONFIG: config,
      MINT_TALLY_DATA: path.join(top, 'data'),
      MINT_TALLY_PORT: String(port),
      MINT_TALLY_DATABASE_URL: database ?? '',
    },
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  await untilReady(child);
  const stop = () =>
    new Promise<number | null>((resolve) => {
      child.once('exit', (code) => {
        rmSync(top, { recursive: true, force: true });
        resolve(code);
      });
      child.kill('SIGINT');
    });
  return { application: { address: `http://127.0.0.1:${port}`, shots, deliveries, top, database }, stop };
}

function untilReady(child: ChildProcess): Promise<void> {
  return new Promise((resolve, reject) => {
    let said = '';
    child.stderr!.on('data', (piece: Buffer) => {
      said += piece.toString();
      if (said.includes('Mint Tally is ready')) resolve();
    });
    child.once('exit', () => reject(new Error(`The application did not start:\n${said}`)));
  });
}

/**
 * Tests that share one running application. Each file names its own (`test.use({ instance: … })`),
 * so that no file finds what another left.
 */
export const test = base.extend<{ baseURL: string }, { application: Application; instance: string; writable: boolean; ownDatabase: boolean }>({
  instance: ['', { option: true, scope: 'worker' }],
  writable: [false, { option: true, scope: 'worker' }],
  // Such a server takes some seconds to start and to stop: what it takes is seen once.
  ownDatabase: [false, { option: true, scope: 'worker' }],
  application: [
    async ({ instance, writable, ownDatabase }, use) => {
      if (instance === '') throw new Error('This file does not name its application.');
      const { application, stop } = await start({ writable, ownDatabase });
      await use(application);
      const code = await stop();
      if (code !== 0) throw new Error(`The application did not stop cleanly (status ${code}).`);
    },
    { scope: 'worker', timeout: 300_000 },
  ],
  baseURL: async ({ application }, use) => use(application.address),
  page: async ({ page }, use) => {
    // What is typed before the page has come alive is typed into the void.
    const [goto, reload] = [page.goto.bind(page), page.reload.bind(page)];
    const alive = () => page.waitForSelector('html[data-alive]', { state: 'attached' });
    page.goto = async (...request) => {
      const response = await goto(...request);
      await alive();
      return response;
    };
    page.reload = async (...request) => {
      const response = await reload(...request);
      await alive();
      return response;
    };
    await use(page);
  },
});

export { expect } from '@playwright/test';
