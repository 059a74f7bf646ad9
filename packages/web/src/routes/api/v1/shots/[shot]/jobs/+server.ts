import { requestJob } from '@mint-tally/store';
import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { needBrief } from '$lib/server/frames';
import { actor, services } from '$lib/server/services';

export const POST = serve(operations.askForJob, async ({ shot, body }) => {
  await needBrief(shot);
  return { job: await requestJob(services().database, shot, body, actor) };
});
