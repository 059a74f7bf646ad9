import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, realpathSync } from 'node:fs';
import path from 'node:path';
import { describeError } from '@mint-tally/core';
import { loadConfig, projectFolder, servicesFolder, type Config } from '@mint-tally/engine';
import { migrate, openDatabase } from '@mint-tally/store';
import { startChild, WEB_SERVER_FLAGS } from './children.ts';
import { startOwnServer, type OwnServer } from './database/own-server.ts';
import { setUpProject } from './demo/set-up-demo.ts';
import { LaunchError } from './errors.ts';
import { keepRunning, type Part } from './keep-running.ts';
import { findFreePort, isPortFree } from './ports.ts';
import { lockDataFolder } from './run-lock.ts';

const say = (line: string) => process.stderr.write(`${line}\n`);

/** What is running, in the order in which it was started. */
interface Running {
  unlock: (() => void) | null;
  /** Each is stopped before those that it was started after. */
  parts: Part[];
}

/** Starts all of Mint Tally and runs until Ctrl-C or until a part of it ends. */
export async function start(): Promise<number> {
  const stop = new AbortController();
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => stop.abort());
  const running: Running = { unlock: null, parts: [] };
  let status = 0;
  try {
    const { ended } = await bringUp(running, stop.signal);
    const stopped = new Promise<null>((resolve) => {
      if (stop.signal.aborted) resolve(null);
      stop.signal.addEventListener('abort', () => resolve(null), { once: true });
    });
    const what = await Promise.race([stopped, ended]);
    if (what !== null) {
      say(`mint: ${what}.`);
      status = 2;
    }
  } catch (thrown) {
    if (!stop.signal.aborted) {
      say(`mint: ${describeError(thrown)}`);
      status = 2;
    }
  }
  if (stop.signal.aborted) say('Stopping …');
  await takeDown(running);
  return status;
}

/** Starts every part; `ended` tells when one of them ends by itself. */
async function bringUp(running: Running, signal: AbortSignal): Promise<{ ended: Promise<string> }> {
  const config = loadConfig();
  running.unlock = await lockDataFolder(config.dataFolder);
  if (!(await isPortFree(config.port))) {
    throw new LaunchError('port-in-use', `Port ${config.port} is in use by another program.`, 'Choose another with MINT_TALLY_PORT, or stop that program.');
  }
  for (const root of config.roots) if (root.path.startsWith(config.dataFolder + path.sep)) mkdirSync(root.path, { recursive: true });
  const url = config.databaseUrl ?? (await startDatabase(running, config));
  await prepare(url, config, signal);
  const environment = {
    ...process.env,
    MINT_TALLY_DATABASE_URL: url,
    MINT_TALLY_PORT: String(config.port),
    HOST: '127.0.0.1',
    PORT: String(config.port),
    // The door in front of the application says in words what is too large.
    BODY_SIZE_LIMIT: 'Infinity',
    ORIGIN: `http://127.0.0.1:${config.port}`,
  };
  if (config.farm) Object.assign(environment, await startFarm(running, config));
  await startPart(running, 'engine', 'engine.js', environment);
  await startPart(running, 'web server', 'web-server.js', environment, WEB_SERVER_FLAGS);
  say(`\nMint Tally is ready: http://127.0.0.1:${config.port}\nCtrl-C stops it.`);
  return { ended: Promise.race(running.parts.map((part) => part.ended)) };
}

/** Starts one of our services, and starts it again whenever it falls. */
async function startPart(running: Running, name: string, file: string, environment: NodeJS.ProcessEnv, flags: readonly string[] = []): Promise<void> {
  running.parts.push(await keepRunning(() => startChild(name, path.join(servicesFolder(), file), environment, flags), say));
}

/** Starts a database server of our own. Gives its address, which stays the same when it falls and is started again. */
async function startDatabase(running: Running, config: Config): Promise<string> {
  let server: OwnServer | null = null;
  const begin = async (): Promise<Part> => {
    server = await startOwnServer(path.join(config.dataFolder, 'database'), say, server?.port);
    const { ended, stop } = server;
    return { name: 'database server', ended: ended.then(() => 'the database server ended'), stop };
  };
  running.parts.push(await keepRunning(begin, say));
  return server!.url;
}

/** Starts the stand-in farm on a free port of loopback. Gives what the others need to reach it. */
async function startFarm(running: Running, config: Config): Promise<NodeJS.ProcessEnv> {
  const port = String(await findFreePort());
  const token = randomBytes(24).toString('base64url');
  const tests = path.join(config.dataFolder, 'tests');
  mkdirSync(tests, { recursive: true });
  const folders = [tests, ...config.roots.filter((root) => root.writable).map((root) => root.path)].filter(existsSync).map((folder) => realpathSync(folder));
  const environment = { ...process.env, MINT_TALLY_FARM_PORT: port, MINT_TALLY_FARM_TOKEN: token, MINT_TALLY_FARM_FOLDERS: JSON.stringify(folders) };
  await startPart(running, 'stand-in farm', 'farm.js', environment);
  return { MINT_TALLY_FARM_URL: `http://127.0.0.1:${port}`, MINT_TALLY_FARM_TOKEN: token };
}

async function prepare(url: string, config: Config, signal: AbortSignal): Promise<void> {
  const database = openDatabase(url);
  try {
    const applied = await migrate(database, path.join(projectFolder(), 'packages', 'store', 'migrations'));
    if (applied.length > 0) say(`Database brought up to date: ${applied.join(', ')}.`);
    await setUpProject(database, config, { onProgress: showDemoProgress(), signal });
  } catch (thrown) {
    const { code } = thrown as { code?: string };
    if (code === 'ECONNREFUSED' || code === 'ENOTFOUND' || code === 'ER_ACCESS_DENIED_ERROR') {
      throw new LaunchError('database-failed', `The database at ${new URL(url).host} cannot be used (${code}).`, 'Check MINT_TALLY_DATABASE_URL.');
    }
    throw thrown;
  } finally {
    await database.close();
  }
}

function showDemoProgress(): (done: number, total: number) => void {
  const began = Date.now();
  let lastShown = 0;
  return (done, total) => {
    const now = Date.now();
    if (now - lastShown < 200 && done < total) return;
    lastShown = now;
    const left = Math.ceil((((now - began) / done) * (total - done)) / 1000);
    const line = `Rendering the demo: ${done} of ${total} frames${done < total ? `, about ${left} s left` : ''}`;
    // On a terminal the line is written over; in a log file every tenth is enough.
    if (process.stderr.isTTY) process.stderr.write(`\r${line}\u001b[K${done === total ? '\n' : ''}`);
    else if (done === total || done % Math.ceil(total / 10) === 0) say(line);
  };
}

async function takeDown(running: Running): Promise<void> {
  for (const part of [...running.parts].reverse()) await part.stop();
  running.unlock?.();
}
