import { randomInt } from 'node:crypto';
import { createServer } from 'node:net';
import { LaunchError } from './errors.ts';

/** Whether nothing listens on a port of this machine's loopback. */
export function isPortFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const server = createServer();
    server.once('error', () => resolve(false));
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
  });
}

/** Above what is well known, and below what systems give to connections (Linux from 32768, others from 49152, RFC 6335): a port of theirs may be somebody's a moment later. */
const FIRST = 20_000;
const COUNT = 10_000;
const TRIES = 100;

/**
 * A port of loopback that nobody uses at the moment.
 *
 * @throws LaunchError when none is found
 */
export async function findFreePort(): Promise<number> {
  for (let i = 0; i < TRIES; i++) {
    const port = FIRST + randomInt(COUNT);
    if (await isPortFree(port)) return port;
  }
  throw new LaunchError('port-in-use', `Of ${TRIES} ports from ${FIRST} to ${FIRST + COUNT - 1} none is free.`, 'Look at what listens on this computer.');
}
