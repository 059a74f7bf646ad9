import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import zlib from 'node:zlib';
import { encodePng, parseBrief } from '@mint-tally/core';
import { projectFolder, servicesFolder } from '@mint-tally/engine';
import { createShot, ensureProject, migrate, openDatabase, saveBrief, type Database } from '@mint-tally/store';
import { startOwnServer, type OwnServer } from '../database/own-server.ts';

const tools = { deflate: (data: Uint8Array) => zlib.deflateSync(data), crc32: (data: Uint8Array) => zlib.crc32(data) };

/** A small picture of its own for each seed. */
export function picture(seed: number): Uint8Array {
  const data = Uint8Array.from({ length: 64 * 36 * 3 }, (_, i) => Math.imul(i + 1 + seed * 7919, 2654435761) >>> 24);
  return encodePng({ width: 64, height: 36, samplesPerPixel: 3, data }, tools);
}

/** Who falls. */
export const victims = ['engine', 'database', 'both'] as const;
export type Victim = (typeof victims)[number];

/** An engine and a database of its own, which fall and are started again. */
export class World {
  readonly top = mkdtempSync(path.join(os.tmpdir(), 'mint-falls-'));
  private server: OwnServer | null = null;
  private engine: ChildProcess | null = null;
  private open: Database | null = null;
  projectId = 0;

  async begin(): Promise<void> {
    for (const name of ['shots', 'disks', 'packages']) mkdirSync(path.join(this.top, name));
    const roots = ['shots', 'disks', 'packages'].map((name) => ({ name, path: path.join(this.top, name), writable: true }));
    writeFileSync(path.join(this.top, 'config.json'), JSON.stringify({ demo: false, workers: 1, roots }));
    this.server = await startOwnServer(path.join(this.top, 'database'), () => undefined);
    this.open = openDatabase(this.server.url);
    await migrate(this.open, path.join(projectFolder(), 'packages', 'store', 'migrations'));
    this.projectId = (await ensureProject(this.open, 'Saltglass', 'falls')).id;
    await this.startEngine();
  }

  get database(): Database {
    return this.open!;
  }

  at(...parts: string[]): string {
    return path.join(this.top, ...parts);
  }

  /** @param first another engine beside the first one: it is not felled, and has to be ended by whoever asked for it */
  async startEngine(first = true): Promise<ChildProcess> {
    const child = spawn(process.execPath, [path.join(servicesFolder(), 'engine.js')], {
      env: { ...process.env, MINT_TALLY_CONFIG: this.at('config.json'), MINT_TALLY_DATA: this.at('data'), MINT_TALLY_DATABASE_URL: this.server!.url },
      stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
    });
    await new Promise<void>((resolve, reject) => {
      child.once('message', () => resolve());
      child.once('exit', () => reject(new Error('The engine did not start.')));
    });
    child.removeAllListeners('exit');
    if (first) this.engine = child;
    return child;
  }

  /** Kills, without a word, and starts again what was killed. */
  async fell(victim: Victim): Promise<void> {
    const { port } = this.server!;
    const waits: Promise<unknown>[] = [];
    if (victim !== 'database') waits.push(this.killEngine());
    if (victim !== 'engine') waits.push(this.killDatabase());
    await Promise.all(waits);
    if (victim !== 'engine') this.server = await startOwnServer(path.join(this.top, 'database'), () => undefined, port);
    if (victim !== 'database') await this.startEngine();
  }

  private killEngine(): Promise<void> {
    const { engine } = this;
    return new Promise((resolve) => {
      engine!.once('exit', () => resolve());
      engine!.kill('SIGKILL');
    });
  }

  private async killDatabase(): Promise<void> {
    process.kill(Number(readFileSync(path.join(this.top, 'database', 'server.pid'), 'utf8')), 'SIGKILL');
    await this.server!.ended;
  }

  pauseEngine(): void {
    this.engine!.kill('SIGSTOP');
  }

  continueEngine(): void {
    this.engine!.kill('SIGCONT');
  }

  /** Asks the database until it answers: it may have just fallen. */
  async ask<Result>(question: (database: Database) => Promise<Result>): Promise<Result> {
    for (let turn = 0; ; turn++) {
      try {
        return await question(this.database);
      } catch (thrown) {
        if (turn === 200) throw thrown;
        await sleep(50);
      }
    }
  }

  /** A shot of so many frames, with its brief. */
  async makeShot(name: string, frames: number, seed = 0): Promise<number> {
    const folder = this.at('shots', name);
    mkdirSync(folder, { recursive: true });
    for (let frame = 1; frame <= frames; frame++) writeFileSync(path.join(folder, `f.${String(1000 + frame)}.png`), picture(seed + frame));
    const brief = parseBrief({ shot: name, range: `1001-${1000 + frames}`, passes: [{ name: 'beauty', pattern: 'f.####.png' }] });
    const id = await createShot(this.database, { projectId: this.projectId, name, note: '', root: 'shots', folder: name }, 'falls');
    await this.database.transaction((inside) => saveBrief(inside, id, brief, 'falls'));
    return id;
  }

  async ended(jobId: number): Promise<{ state: string; error: string }> {
    for (let turn = 0; turn < 2400; turn++) {
      const [row] = await this.ask((database) => database.rows('SELECT state, error FROM jobs WHERE id = ?', [jobId]));
      if (row && row.state !== 'queued' && row.state !== 'running') return { state: row.state as string, error: (row.error as string | null) ?? '' };
      await sleep(25);
    }
    return { state: 'never ended', error: '' };
  }

  async end(): Promise<void> {
    this.engine?.kill('SIGKILL');
    await this.open?.close();
    await this.server?.stop();
    rmSync(this.top, { recursive: true, force: true });
  }
}

/** Of a file as it is at this moment; empty when it is not there. */
export function checksum(file: string): string {
  try {
    return createHash('sha256').update(readFileSync(file)).digest('hex');
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code === 'ENOENT') return '';
    throw thrown;
  }
}

export const verifies = (bag: string) => spawnSync('sha256sum', ['-c', '--quiet', 'manifest-sha256.txt'], { cwd: bag }).status === 0;
export const namesIn = (folder: string) => (existsSync(folder) ? readdirSync(folder).sort() : []);
