import { withdrawWaiver } from '@mint-tally/store';
import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { actor, services } from '$lib/server/services';

export const DELETE = serve(operations.withdrawWaiver, async ({ shot, id }) => {
  await services().database.transaction((inside) => withdrawWaiver(inside, shot, id, actor));
  return {};
});
