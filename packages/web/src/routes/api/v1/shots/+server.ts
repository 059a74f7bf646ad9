import { findRoot, resolveInside } from '@mint-tally/engine';
import { createShot, listShots, requestJob, saveBrief } from '@mint-tally/store';
import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { actor, currentProject, services } from '$lib/server/services';

export const GET = serve(operations.listShots, async () => ({ shots: await listShots(services().database, (await currentProject()).id) }));

export const POST = serve(operations.createShot, async ({ body: { brief, note, ...place } }) => {
  const { database, config } = services();
  // Nothing is saved of a folder that may not be read.
  resolveInside(findRoot(config.roots, place.root), place.folder);
  const project = await currentProject();
  return database.transaction(async (inside) => {
    const id = await createShot(inside, { projectId: project.id, name: brief.shot, note, ...place }, actor);
    await saveBrief(inside, id, brief, actor);
    return { id, job: await requestJob(inside, id, { kind: 'count' }, actor) };
  });
});
