import { requestJob, renameShot, saveBrief } from '@mint-tally/store';
import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { needBrief } from '$lib/server/frames';
import { actor, services } from '$lib/server/services';
import { loadShotState } from '$lib/server/shot-state';

export const GET = serve(operations.readBrief, async ({ shot }) => (await needBrief(shot)).brief);

export const PUT = serve(operations.writeBrief, async ({ shot, body: brief }) => {
  const { database } = services();
  const { shot: before } = await loadShotState(database, shot);
  return database.transaction(async (inside) => {
    await renameShot(inside, shot, brief.shot, before.note);
    return { version: (await saveBrief(inside, shot, brief, actor)).version, job: await requestJob(inside, shot, { kind: 'count' }, actor) };
  });
});
