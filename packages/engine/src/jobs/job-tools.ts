import type { Database } from '@mint-tally/store';
import type { Config } from '../config/config.ts';
import type { InspectionPool } from '../inspection/pool.ts';
import type { RenderService } from '../render-service/service.ts';

/** What the jobs work with. */
export interface JobTools {
  readonly database: Database;
  readonly config: Config;
  readonly pool: InspectionPool;
  readonly services: readonly RenderService[];
}
