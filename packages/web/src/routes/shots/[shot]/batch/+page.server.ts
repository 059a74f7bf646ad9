import { readBatchView, readRemainder, readServices } from '$lib/server/batches';
import { told } from '$lib/server/errors';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ parent }) => {
  const { state } = await parent();
  return told(async () => {
    const [batch, remainder, choices] = await Promise.all([
      readBatchView(state.shot.id, null),
      readRemainder(state.shot.id, state.brief),
      readServices(state.shot.id),
    ]);
    return { batch, remainder, choices };
  });
};
