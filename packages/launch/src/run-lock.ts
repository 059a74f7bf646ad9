import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { LaunchError } from './errors.ts';

/**
 * Marks a data folder as in use by this process, so that a second start says so instead of
 * fighting over the database. A mark that a dead process left is taken over.
 *
 * @returns takes the mark away
 * @throws LaunchError
 */
export function lockDataFolder(folder: string): () => void {
  mkdirSync(folder, { recursive: true });
  const file = path.join(folder, 'running.pid');
  for (;;) {
    try {
      writeFileSync(file, String(process.pid), { flag: 'wx' });
      return () => rmSync(file, { force: true });
    } catch (thrown) {
      if ((thrown as NodeJS.ErrnoException).code !== 'EEXIST') throw thrown;
      const owner = Number(readFileSync(file, 'utf8'));
      if (isAlive(owner))
        throw new LaunchError('already-running', `Mint Tally runs already on ${folder} (process ${owner}).`, 'Use that one, or stop it first.');
      rmSync(file, { force: true });
    }
  }
}

function isAlive(processId: number): boolean {
  if (!Number.isInteger(processId) || processId <= 0 || processId === process.pid) return false;
  try {
    // A number may have gone to another program since: only a Node process can be ours.
    return /node/.test(readFileSync(`/proc/${processId}/comm`, 'utf8')) || readFileSync(`/proc/${processId}/cmdline`, 'utf8').includes('start.js');
  } catch {
    return false;
  }
}
