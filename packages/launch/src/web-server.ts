import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { projectFolder } from '@mint-tally/engine';

/** The web server as a process of its own: the built application, with a word to whoever started it. */
await import(pathToFileURL(path.join(projectFolder(), 'packages', 'web', 'build', 'index.js')).href);
process.on('disconnect', () => process.kill(process.pid, 'SIGTERM'));
// Listening for that alone must not keep the process alive once the server is closed.
process.channel?.unref();
process.send?.('ready');
