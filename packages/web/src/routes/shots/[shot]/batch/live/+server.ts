import { json } from '@sveltejs/kit';
import { readBatchView } from '$lib/server/batches';
import { answered, shotNumber } from '$lib/server/errors';
import type { RequestHandler } from './$types';

/** How the shot's batch stands; `machine` chooses whose log comes with it. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => json(await readBatchView(shotNumber(params.shot), url.searchParams.get('machine'))));
