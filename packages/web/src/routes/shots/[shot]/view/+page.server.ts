import { shotNumber, told } from '$lib/server/errors';
import { openingOf } from '$lib/server/opening';
import { services } from '$lib/server/services';
import type { PageServerLoad } from './$types';

/** The folders in which something may be looked for to compare with, and what the address asks to be shown at first. */
export const load: PageServerLoad = ({ params, url }) =>
  told(async () => ({
    roots: services().config.roots.map(({ name, path }) => ({ name, path })),
    opening: await openingOf(shotNumber(params.shot), url.searchParams),
  }));
