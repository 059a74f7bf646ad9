import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { createServer } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { openDatabase } from '@mint-tally/store';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { findFreePort, isPortFree, startOwnServer } from '../src/index.ts';
import { lockDataFolder } from '../src/run-lock.ts';

let folder: string;
const said: string[] = [];
const say = (line: string) => said.push(line);

beforeEach(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'mint-own-server-'));
  said.length = 0;
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

describe('a database server of our own', () => {
  it('keeps every datum from start to start, and replaces one that was left running', async () => {
    const first = await startOwnServer(folder, say);
    const database = openDatabase(first.url);
    await database.script('CREATE TABLE kept (word VARCHAR(20));');
    await database.change('INSERT INTO kept VALUES (?)', ['lamp']);
    await database.close();
    expect(said).toEqual(['Making the database …']);

    // The first is not stopped: its launcher was killed.
    const second = await startOwnServer(folder, say);
    await first.ended;
    expect(said.at(-1)).toMatch(/earlier start left running/);
    const again = openDatabase(second.url);
    expect(await again.rows('SELECT word FROM kept')).toEqual([{ word: 'lamp' }]);
    await again.close();
    await second.stop();
  });

  it('lets in nobody without the password, which only its owner can read', async () => {
    const server = await startOwnServer(folder, say);
    try {
      expect(statSync(path.join(folder, 'password')).mode & 0o077).toBe(0);
      expect(server.url).toContain(readFileSync(path.join(folder, 'password'), 'utf8').trim());
      for (const [user, password] of [
        ['mint_tally', 'guess'],
        ['root', ''],
        ['', ''],
      ]) {
        const url = new URL(server.url);
        url.username = user;
        url.password = password;
        const stranger = openDatabase(url.href);
        await expect(stranger.rows('SELECT 1')).rejects.toThrow(/[Aa]ccess denied/);
        await stranger.close();
      }
    } finally {
      await server.stop();
    }
  });

  it('throws away what a stopped first start left, and refuses a folder that it did not make', async () => {
    mkdirSync(path.join(folder, 'data.new', 'mysql'), { recursive: true });
    const server = await startOwnServer(folder, say);
    await server.stop();
    expect(said[0]).toMatch(/half made/);
    rmSync(path.join(folder, 'data', 'mysql'), { recursive: true });
    await expect(startOwnServer(folder, say)).rejects.toMatchObject({ code: 'half-made-database', message: expect.stringContaining('is half made') });
  });
});

describe('a start', () => {
  it('sees whether a port is taken', async () => {
    const port = await findFreePort();
    expect(await isPortFree(port)).toBe(true);
    const server = createServer().listen(port, '127.0.0.1');
    await new Promise((resolve) => server.once('listening', resolve));
    expect(await isPortFree(port)).toBe(false);
    await new Promise((resolve) => server.close(resolve));
  });

  it('takes over the mark of a dead process and gives its own back', () => {
    const unlock = lockDataFolder(folder);
    expect(readFileSync(path.join(folder, 'running.pid'), 'utf8')).toBe(String(process.pid));
    unlock();
    lockDataFolder(folder)();
  });
});
