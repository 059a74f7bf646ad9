import { listCounts } from '@mint-tally/store';
import { json } from '@sveltejs/kit';
import { answered, shotNumber } from '$lib/server/errors';
import { services } from '$lib/server/services';
import type { RequestHandler } from './$types';

/** The counts that are kept of a shot, the newest first. */
export const GET: RequestHandler = ({ params }) => answered(async () => json(await listCounts(services().database, shotNumber(params.shot))));
