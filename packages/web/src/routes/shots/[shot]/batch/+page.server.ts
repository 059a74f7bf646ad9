import { readBatchView, readRemainder, readServices } from '$lib/server/batches';
import { told } from '$lib/server/errors';
import { leftOnList } from '$lib/server/mend-list';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ parent, url }) => {
  const { state } = await parent();
  return told(async () => {
    const [batch, remainder, choices, listed] = await Promise.all([
      readBatchView(state.shot.id, null),
      readRemainder(state.shot.id, state.brief),
      readServices(state.shot.id),
      leftOnList(state.shot.id),
    ]);
    // Whoever comes from the list of what is to be rendered again wants just that.
    return { batch, remainder, choices, listed, wantsListed: url.searchParams.has('list') };
  });
};
