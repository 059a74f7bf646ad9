import { json } from '@sveltejs/kit';
import { answered, shotNumber } from '$lib/server/errors';
import { addToList, listRequestSchema } from '$lib/server/mend-list';
import type { RequestHandler } from './$types';

/** Puts frames on the list of those that are to be rendered again. */
export const POST: RequestHandler = ({ params, request }) =>
  answered(async () => {
    await addToList(shotNumber(params.shot), listRequestSchema.parse(await request.json().catch(() => null)));
    return json({});
  });
