import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { projectFolder } from '@mint-tally/engine';

/** The web server as a process of its own: the built application, with a word to whoever started it. */
await import(pathToFileURL(path.join(projectFolder(), 'packages', 'web', 'build', 'index.js')).href);
process.on('disconnect', () => process.kill(process.pid, 'SIGTERM'));
// Listening for that alone must not keep the process alive once the server is closed.
process.channel?.unref();
process.send?.(await answers());

/** Asks itself for a page until it is there: ready is who answers, not who has begun to listen. */
async function answers(): Promise<'ready'> {
  const { HOST = '127.0.0.1', PORT = '3000' } = process.env;
  for (;;) {
    const answer = await fetch(`http://${HOST}:${PORT}/`, { signal: AbortSignal.timeout(30_000) }).catch(() => null);
    await answer?.arrayBuffer().catch(() => null);
    if (answer?.ok) return 'ready';
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}
