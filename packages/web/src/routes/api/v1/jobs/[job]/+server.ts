import { MintError } from '@mint-tally/core';
import { cancelJob, findJob, readResult } from '@mint-tally/store';
import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { services } from '$lib/server/services';

async function needJob(id: number) {
  const job = await findJob(services().database, id);
  if (!job) throw new MintError('not-found', 'There is no such job.');
  return job;
}

export const GET = serve(operations.readJob, async ({ id }) => {
  const { shotId, request, ...job } = await needJob(id);
  return { ...job, shot: shotId, kind: request.kind, result: await readResult(services().database, id) };
});

export const DELETE = serve(operations.cancelJob, async ({ id }) => {
  await needJob(id);
  await cancelJob(services().database, id);
  return {};
});
