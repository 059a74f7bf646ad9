import { services } from '$lib/server/services';
import type { PageServerLoad } from './$types';

/** The folders in which something may be looked for to compare with. */
export const load: PageServerLoad = () => ({ roots: services().config.roots.map(({ name, path }) => ({ name, path })) });
