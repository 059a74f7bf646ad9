import { describeError, MintError } from '@mint-tally/core';
import { openDatabase } from '@mint-tally/store';
import { loadConfig } from '../config/config.ts';
import { Housekeeper } from '../housekeeping/house.ts';
import { InspectionPool } from '../inspection/pool.ts';
import { JobRunner } from '../jobs/runner.ts';
import { makeServices } from '../render-service/services.ts';

/** The engine as a process of its own: runs until it is told to stop. */
try {
  const config = loadConfig();
  if (!config.databaseUrl) throw new MintError('config', 'The engine needs MINT_TALLY_DATABASE_URL.', { remedy: 'Start it with ./mint start.' });
  const database = openDatabase(config.databaseUrl);
  const pool = new InspectionPool(config.workers, config.memory);
  const services = makeServices(config);
  const runner = new JobRunner({ database, config, pool, services }, (line) => process.stderr.write(`engine: ${line}\n`));
  // Whatever nobody waited for must not take everything else down.
  process.on('unhandledRejection', (thrown) => process.stderr.write(`engine: unexpected: ${thrown instanceof Error ? thrown.stack : String(thrown)}\n`));
  await runner.start();
  const housekeeper = new Housekeeper(database, config, (line) => process.stderr.write(`engine: ${line}\n`));
  housekeeper.start();
  let stopping = false;
  const stop = async () => {
    if (stopping) return;
    stopping = true;
    await housekeeper.stop();
    await runner.stop();
    for (const service of services) service.close?.();
    await pool.close();
    await database.close();
  };
  process.on('SIGTERM', () => void stop());
  process.on('SIGINT', () => void stop());
  // Whoever started the engine holds the other end; when that process dies, so does this one.
  process.on('disconnect', () => void stop());
  // Listening for that alone must not keep the process alive once everything is closed.
  process.channel?.unref();
  process.send?.('ready');
} catch (thrown) {
  process.stderr.write(`engine: ${describeError(thrown)}\n`);
  process.exitCode = 2;
}
