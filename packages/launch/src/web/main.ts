import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { projectFolder } from '@mint-tally/engine';
import { admit } from './door.ts';

/** The web server as a process of its own: the built application behind our own door, with a word to whoever started it. */
const { HOST = '127.0.0.1', PORT = '3000', ORIGIN = `http://${HOST}:${PORT}` } = process.env;
/** Pages that listen for events would else hold the server open, in milliseconds. */
const CLOSE_WITHIN = 1000;

type Handler = (request: IncomingMessage, response: ServerResponse, next: () => void) => void;
const application = path.join(projectFolder(), 'packages', 'web', 'build', 'handler.js');
const { handler } = (await import(pathToFileURL(application).href)) as { handler: Handler };

const server = createServer((request, response) => {
  if (!admit(request, response, ORIGIN)) return;
  handler(request, response, () => response.writeHead(404).end());
});

// Whatever nobody waited for must not take all pages down.
process.on('unhandledRejection', (thrown) => process.stderr.write(`web server: unexpected: ${thrown instanceof Error ? thrown.stack : String(thrown)}\n`));

let stopping = false;
function stop(): void {
  if (stopping) return;
  stopping = true;
  server.close(() => process.emit('sveltekit:shutdown' as 'disconnect'));
  server.closeIdleConnections();
  setTimeout(() => server.closeAllConnections(), CLOSE_WITHIN).unref();
}
process.on('SIGTERM', stop);
process.on('SIGINT', stop);
process.on('disconnect', stop);

await new Promise<void>((resolve, reject) => {
  server.once('error', reject);
  server.listen(Number(PORT), HOST, () => resolve());
});
// Listening for the other end alone must not keep the process alive once the server is closed.
process.channel?.unref();
process.send?.(await answers());

/** Asks itself for a page until it is there: ready is who answers, not who has begun to listen. */
async function answers(): Promise<'ready'> {
  for (;;) {
    const answer = await fetch(ORIGIN, { signal: AbortSignal.timeout(30_000) }).catch(() => null);
    await answer?.arrayBuffer().catch(() => null);
    if (answer?.ok) return 'ready';
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}
