import { told } from '$lib/server/errors';
import { currentProject } from '$lib/server/services';
import { listShotsForList } from '$lib/server/summaries';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = () => told(async () => ({ shots: await listShotsForList((await currentProject()).id) }));
