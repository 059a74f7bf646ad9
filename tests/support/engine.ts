import type { Database } from '@mint-tally/store';
import { InspectionPool, JobRunner, type Config } from '../../packages/engine/src/index.ts';

/** An engine with so many threads that takes jobs until it is stopped. */
export async function startEngine(database: Database, config: Config, threads: number): Promise<{ readonly stop: () => Promise<void> }> {
  const pool = new InspectionPool(threads);
  const runner = new JobRunner({ database, config, pool, services: [] }, () => undefined);
  await runner.start();
  return {
    async stop() {
      await runner.stop();
      await pool.close();
    },
  };
}
