import { newestDenoises } from '@mint-tally/store';
import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { beginDenoising, pauseDenoising, resumeDenoising, stopDenoising } from '$lib/server/denoising';
import { needBrief } from '$lib/server/frames';
import { services } from '$lib/server/services';

/** Runs of either kind that are listed. */
const MOST = 10;

export const GET = serve(operations.readDenoising, async ({ shot }) => {
  await needBrief(shot);
  const runs = await Promise.all((['test', 'range'] as const).map((purpose) => newestDenoises(services().database, shot, purpose, MOST)));
  return {
    runs: runs.flat().map(({ id, request: { purpose, pass, range }, outcome, parts }) => ({
      ...{ id, purpose, pass, range, outcome, parts: parts.length },
      done: parts.filter(({ figures }) => figures !== null).length,
    })),
  };
});

export const POST = serve(operations.controlDenoising, async ({ shot, body }) => {
  await needBrief(shot);
  if (body.action === 'begin') await beginDenoising(shot, body);
  else if (body.action === 'pause') await pauseDenoising(shot);
  else if (body.action === 'go-on') await resumeDenoising(shot, body.run);
  else await stopDenoising(shot, body.run);
  return {};
});
