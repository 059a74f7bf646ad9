import { rmSync } from 'node:fs';
import type { Database } from '@mint-tally/store';
import type { InspectionPool, JobRunner } from '../../packages/engine/src/index.ts';

/** What a file's tests have begun. */
interface Begun {
  readonly runner: JobRunner;
  readonly pool: InspectionPool;
  /** A render service, where there is one. */
  readonly service?: { close: () => Promise<void> };
  readonly database: Database;
  readonly top: string;
}

/** Ends an engine with all that it used, and clears its folder away. */
export async function endAll({ runner, pool, service, database, top }: Begun): Promise<void> {
  await runner.stop();
  await pool.close();
  await service?.close();
  await database.close();
  rmSync(top, { recursive: true, force: true });
}
