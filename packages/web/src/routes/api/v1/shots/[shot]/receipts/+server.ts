import { addReceipt } from '@mint-tally/store';
import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { needBrief } from '$lib/server/frames';
import { actor, services } from '$lib/server/services';

export const POST = serve(operations.addReceipt, async ({ shot, body }) => {
  await needBrief(shot);
  return { package: await services().database.transaction((inside) => addReceipt(inside, shot, body, actor)) };
});
