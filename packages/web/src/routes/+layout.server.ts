import { told } from '$lib/server/errors';
import { readLive } from '$lib/server/live';
import { currentProject } from '$lib/server/services';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = ({ locals }) =>
  told(async () => {
    const [project, live] = await Promise.all([currentProject(), readLive()]);
    return { project, live, theme: locals.theme };
  });
