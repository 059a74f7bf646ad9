import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { needBrief } from '$lib/server/frames';
import { controlMerge, readMergeView } from '$lib/server/merges';

export const GET = serve(operations.readMerge, async ({ shot }) => {
  await needBrief(shot);
  const merge = await readMergeView(shot);
  return { merge: merge && { ...merge, gaps: [...merge.gaps] } };
});

export const POST = serve(operations.controlMerge, async ({ shot, body }) => {
  await controlMerge(shot, body);
  return {};
});
