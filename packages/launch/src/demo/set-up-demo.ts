import { existsSync, mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { parseBrief } from '@mint-tally/core';
import { servicesFolder, type Config } from '@mint-tally/engine';
import { briefOf, demoShots, renderDemo } from '@mint-tally/standin-farm';
import { createShot, ensureProject, readSetting, requestJob, saveBrief, writeSetting, type Database } from '@mint-tally/store';

const DEMO_PROJECT = 'Saltglass';
const ACTOR = 'demo';

/** The project, and with it the demo where there is none yet and none is refused. */
export async function setUpProject(
  database: Database,
  config: Config,
  options: { onProgress: (done: number, total: number) => void; signal: AbortSignal },
): Promise<void> {
  if (!config.demo || (await readSetting(database, 'demo')) === 'made') {
    await ensureProject(database, config.demo ? DEMO_PROJECT : 'Project', ACTOR);
    return;
  }
  const folder = path.join(config.dataFolder, 'demo');
  if (!existsSync(path.join(folder, demoShots[0]!.name))) {
    // An empty folder may stand there because the root was made before the demo was.
    rmSync(folder, { recursive: true, force: true });
    mkdirSync(config.dataFolder, { recursive: true });
    await renderDemo({ folder, workerFile: path.join(servicesFolder(), 'render-worker.js'), threads: config.workers, ...options });
  }
  await database.transaction(async (inside) => {
    const project = await ensureProject(inside, DEMO_PROJECT, ACTOR);
    for (const shot of demoShots) {
      const id = await createShot(inside, { projectId: project.id, name: shot.name, note: shot.note, root: 'demo', folder: shot.name }, ACTOR);
      await saveBrief(inside, id, parseBrief(briefOf(shot)), ACTOR);
      await requestJob(inside, id, { kind: 'count' }, ACTOR);
    }
    await writeSetting(inside, 'demo', 'made');
  });
}
