import { createHash } from 'node:crypto';
import { mkdirSync, realpathSync } from 'node:fs';
import { connect, createServer, type Server } from 'node:net';
import { LaunchError } from './errors.ts';

/** Longer than this nobody waits for the owner of a lock to say who it is, in milliseconds. */
const SAY_WITHIN = 1000;

/**
 * Marks a data folder as in use by this process, so that a second start says so instead of fighting over
 * the database. The mark is a socket without a file, named after the folder: the system itself takes it
 * away with the process, however that ends, so no mark of a dead process can stand in anybody's way.
 *
 * @returns takes the mark away
 * @throws LaunchError
 */
export async function lockDataFolder(folder: string): Promise<() => void> {
  mkdirSync(folder, { recursive: true });
  const name = lockName(folder);
  const server = createServer((socket) => socket.end(String(process.pid)).on('error', () => undefined));
  try {
    await listen(server, name);
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code !== 'EADDRINUSE') throw thrown;
    const owner = await askOwner(name);
    throw new LaunchError(
      'already-running',
      `Mint Tally runs already on ${folder}${owner === '' ? '' : ` (process ${owner})`}.`,
      'Use that one, or stop it first.',
    );
  }
  // The mark alone keeps nobody running.
  server.unref();
  return () => server.close();
}

/** A leading zero byte makes a name in the system's own space (unix(7), abstract sockets). */
export function lockName(folder: string): string {
  return `\0mint-tally-${createHash('sha256').update(realpathSync(folder)).digest('hex').slice(0, 40)}`;
}

function listen(server: Server, path: string): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen({ path }, () => resolve());
  });
}

function askOwner(path: string): Promise<string> {
  return new Promise((resolve) => {
    let said = '';
    const socket = connect({ path });
    socket.setTimeout(SAY_WITHIN, () => socket.destroy());
    socket.on('data', (piece) => (said += piece.toString()));
    socket.on('error', () => undefined);
    socket.on('close', () => resolve(/^\d+$/.test(said) ? said : ''));
  });
}
