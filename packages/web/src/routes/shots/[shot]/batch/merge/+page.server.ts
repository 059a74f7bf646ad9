import { told } from '$lib/server/errors';
import { readMergeView } from '$lib/server/merges';
import { services } from '$lib/server/services';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ parent }) => {
  const { state } = await parent();
  return told(async () => ({
    merge: await readMergeView(state.shot.id),
    roots: services().config.roots.map(({ name, path }) => ({ name, path })),
    writable: services().config.roots.find(({ name }) => name === state.shot.root)?.writable ?? false,
  }));
};
