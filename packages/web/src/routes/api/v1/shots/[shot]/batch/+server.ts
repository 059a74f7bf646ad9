import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { controlBatch, readBatchView, readRemainder, startBatch } from '$lib/server/batches';
import { needBrief } from '$lib/server/frames';

export const GET = serve(operations.readBatch, async ({ shot }) => {
  const [{ brief }, batch] = await Promise.all([needBrief(shot), readBatchView(shot, null)]);
  return { batch, left: (await readRemainder(shot, brief)).render };
});

export const POST = serve(operations.startBatch, async ({ shot, body }) => ({ batch: await startBatch(shot, body) }));

export const PUT = serve(operations.controlBatch, async ({ shot, body }) => {
  await controlBatch(shot, body);
  return {};
});
