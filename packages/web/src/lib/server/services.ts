import os from 'node:os';
import { loadConfig, InspectionPool, makeServices, PicturePool, Proposer, type Config, type RenderService } from '@mint-tally/engine';
import { ensureProject, openDatabase, StoreError, type Database, type Project } from '@mint-tally/store';

/** What the server routes work with; opened at the first request, closed when the server stops. */
interface Services {
  readonly config: Config;
  readonly database: Database;
  /** One thread for pictures that nobody has made yet. */
  readonly pool: InspectionPool;
  /** Threads for what somebody looks at. */
  readonly pictures: PicturePool;
  readonly proposer: Proposer;
  readonly renderServices: readonly RenderService[];
}

let opened: Services | null = null;

/** @throws ConfigError, StoreError */
export function services(): Services {
  if (opened) return opened;
  const config = loadConfig();
  if (!config.databaseUrl) throw new StoreError('There is no database.', { remedy: 'Start the application with ./mint start.' });
  opened = {
    config,
    database: openDatabase(config.databaseUrl),
    pool: new InspectionPool(1, config.memory / 4),
    pictures: new PicturePool(Math.max(2, Math.min(4, os.availableParallelism())), config.memory / 4),
    proposer: new Proposer(),
    renderServices: makeServices(config),
  };
  return opened;
}

export async function closeServices(): Promise<void> {
  const closing = opened;
  opened = null;
  await closing?.pool.close();
  await closing?.pictures.close();
  await closing?.proposer.close();
  await closing?.database.close();
}

/** Who acts. There is one local person; the tables are ready for more. */
export const actor = os.userInfo().username;

let known: Project | null = null;

/** The project that the application shows. There is one, and it keeps its number and name. */
export async function currentProject(): Promise<Project> {
  return (known ??= await ensureProject(services().database, 'Project', actor));
}
