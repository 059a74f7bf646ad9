// The whole application on an empty data folder with one root, and Debian's Chromium before it, for measuring.
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { chromium } from '@playwright/test';

const home = path.resolve(import.meta.dirname, '..');

function freePort() {
  return new Promise((resolve) => {
    const server = createServer();
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });
}

async function start(top, shots, port) {
  const config = path.join(top, 'config.json');
  writeFileSync(config, JSON.stringify({ demo: false, workers: 2, roots: [{ name: 'shots', path: shots, writable: false }] }));
  const child = spawn('node', ['build/services/start.js'], {
    cwd: home,
    env: {
      ...process.env,
      MINT_TALLY_HOME: home,
      MINT_TALLY_CONFIG: config,
      MINT_TALLY_DATA: path.join(top, 'data'),
      MINT_TALLY_PORT: String(port),
      MINT_TALLY_DATABASE_URL: '',
    },
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  await new Promise((resolve, reject) => {
    child.stderr.on('data', (text) => String(text).includes('is ready') && resolve());
    child.once('exit', (code) => reject(new Error(`the application ended with ${code}`)));
  });
  return child;
}

/**
 * Starts all, does the work, and leaves nothing behind.
 *
 * @param makeShots fills a folder with frames
 * @param work gets the browser and the application's address
 */
export async function withApplication(makeShots, work) {
  const top = mkdtempSync(path.join(os.tmpdir(), 'mint-bench-'));
  const shots = path.join(top, 'shots');
  mkdirSync(shots);
  makeShots(shots);
  const port = await freePort();
  const application = await start(top, shots, port);
  try {
    const browser = await chromium.launch({
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    });
    await work(browser, `http://127.0.0.1:${port}`);
    await browser.close();
  } finally {
    await new Promise((resolve) => {
      application.removeAllListeners('exit');
      application.once('exit', resolve);
      application.kill('SIGINT');
    });
    rmSync(top, { recursive: true, force: true });
  }
}
