import { spawn, type ChildProcess } from 'node:child_process';
import { LaunchError } from './errors.ts';
import type { Part } from './keep-running.ts';

const STOP_WITHIN = 10_000;

/**
 * How the web server's memory is kept: room for much that is made for one page and thrown away with it, and
 * a heap that is tidied before it has grown to many times of what is in it.
 */
export const WEB_SERVER_FLAGS = ['--max-semi-space-size=32', '--max-old-space-size=768'];

/**
 * Starts one of our services and waits until it says that it is ready. It stands in a session of
 * its own, so that Ctrl-C in the terminal reaches this process alone, which then stops all in order.
 *
 * @param flags for Node.js itself
 * @throws LaunchError when it ends before it is ready
 */
export async function startChild(name: string, file: string, environment: NodeJS.ProcessEnv, flags: readonly string[] = []): Promise<Part> {
  const child = spawn(process.execPath, [...flags, '--enable-source-maps', file], {
    env: environment,
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    detached: true,
  });
  const ended = new Promise<string>((resolve) => child.once('exit', (code, signal) => resolve(`the ${name} ended (${signal ?? `status ${code}`})`)));
  const ready = new Promise<void>((resolve) => child.once('message', () => resolve()));
  // A program that cannot be run at all ends without having begun.
  const failed = new Promise<string>((resolve) => child.once('error', (thrown) => resolve(`the ${name} could not be run (${thrown.message})`)));
  const early = await Promise.race([ready.then(() => null), ended, failed]);
  if (early !== null) throw new LaunchError('child-failed', `Mint Tally did not start: ${early}.`, 'Its messages stand above.');
  return { name, ended, stop: () => stop(child, ended) };
}

async function stop(child: ChildProcess, ended: Promise<string>): Promise<void> {
  child.kill('SIGTERM');
  const killer = setTimeout(() => child.kill('SIGKILL'), STOP_WITHIN);
  await ended;
  clearTimeout(killer);
}
