import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { openDatabase } from '@mint-tally/store';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { findFreePort, isPortFree, startOwnServer } from '../src/index.ts';
import { keepRunning } from '../src/keep-running.ts';
import { lockDataFolder, lockName } from '../src/run-lock.ts';

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

  it.each(['', 'half', '\n'])('makes a new password where the file holds %j, and lets in nobody without one', async (left) => {
    writeFileSync(path.join(folder, 'password'), left);
    const server = await startOwnServer(folder, say);
    try {
      expect(readFileSync(path.join(folder, 'password'), 'utf8')).toMatch(/^[0-9a-f]{48}\n$/);
      const url = new URL(server.url);
      url.password = '';
      const stranger = openDatabase(url.href);
      await expect(stranger.rows('SELECT 1')).rejects.toThrow(/[Aa]ccess denied/);
      await stranger.close();
    } finally {
      await server.stop();
    }
  });

  it('leaves the temporary tables of another server alone', async () => {
    // As one names them that sorts a table at this moment.
    const others = ['#sql-temptable-1234-1-4.MAI', '#sql-temptable-1234-1-4.MAD'].map((name) => path.join(os.tmpdir(), name));
    for (const file of others) writeFileSync(file, '');
    try {
      const server = await startOwnServer(folder, say);
      await server.stop();
      expect(others.every((file) => existsSync(file))).toBe(true);
    } finally {
      for (const file of others) rmSync(file, { force: true });
    }
  });

  it('may lie in a folder with blanks in its path', async () => {
    const server = await startOwnServer(path.join(folder, 'a clone of mine'), say);
    const database = openDatabase(server.url);
    expect(await database.rows('SELECT 1 AS one')).toEqual([{ one: 1 }]);
    await database.close();
    await server.stop();
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

  it('has the folder to itself, until it lets go or dies, however it dies', async () => {
    const unlock = await lockDataFolder(folder);
    await expect(lockDataFolder(folder)).rejects.toMatchObject({ code: 'already-running' });
    unlock();
    (await lockDataFolder(folder))();
    // Another process takes it and is killed.
    const holder = spawn('node', [
      '-e',
      `require('net').createServer().listen({ path: ${JSON.stringify(lockName(folder))} }, () => process.stdout.write('held'))`,
    ]);
    await new Promise((resolve) => holder.stdout.once('data', resolve));
    await expect(lockDataFolder(folder)).rejects.toMatchObject({ code: 'already-running' });
    const gone = new Promise((resolve) => holder.once('exit', resolve));
    holder.kill('SIGKILL');
    await gone;
    (await lockDataFolder(folder))();
  });
});

describe('a part that is kept running', () => {
  it('is started again also when that fails a few times', async () => {
    const lines: string[] = [];
    let begun = 0;
    let fall: (why: string) => void = () => undefined;
    const part = await keepRunning(
      async () => {
        if (++begun === 2 || begun === 3) throw new Error('its disk is away');
        return { name: 'lamp', ended: new Promise<string>((resolve) => (fall = resolve)), stop: async () => fall('the lamp was put out') };
      },
      (line) => lines.push(line),
    );
    fall('the lamp went out');
    while (begun < 4) await sleep(20);
    expect(lines[0]).toBe('mint: the lamp went out; it is started again.');
    expect(lines.filter((line) => line.includes('could not be started again: its disk is away'))).toHaveLength(2);
    await sleep(20);
    await part.stop();
    expect(await part.ended).toBe('the lamp was put out');
  });
});
