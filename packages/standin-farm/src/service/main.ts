import os from 'node:os';
import path from 'node:path';
import { Farm } from './farm.ts';
import { serveFarm } from './http.ts';

// The farm as a process of its own. Who starts it says where it listens, what it may write, and
// with which token it is asked; none of that is for the command line, which everybody can read.
const { MINT_TALLY_FARM_PORT, MINT_TALLY_FARM_TOKEN, MINT_TALLY_FARM_FOLDERS } = process.env;
if (!MINT_TALLY_FARM_PORT || !MINT_TALLY_FARM_TOKEN || !MINT_TALLY_FARM_FOLDERS) {
  process.stderr.write('The stand-in farm is started by ./mint start.\n');
  process.exit(2);
}
const folders = JSON.parse(MINT_TALLY_FARM_FOLDERS) as string[];
const farm = new Farm({ workerFile: path.join(import.meta.dirname, 'render-worker.js'), threads: os.availableParallelism() });
const service = await serveFarm(farm, { token: MINT_TALLY_FARM_TOKEN, folders, port: Number(MINT_TALLY_FARM_PORT) });
process.send?.('ready');
process.channel?.unref();
const end = () => void service.close().then(() => process.exit(0));
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, end);
// Whoever started the farm holds the other end; when that process dies, so does this one.
process.once('disconnect', end);
