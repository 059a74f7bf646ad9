import { json } from '@sveltejs/kit';
import { answered, shotNumber } from '$lib/server/errors';
import { mergeControlSchema } from '$lib/api/merge-control';
import { controlMerge } from '$lib/server/merges';
import type { RequestHandler } from './$types';

/** Previews a merge, carries it out or takes it back. */
export const POST: RequestHandler = ({ params, request }) =>
  answered(async () => {
    await controlMerge(shotNumber(params.shot), mergeControlSchema.parse(await request.json().catch(() => null)));
    return json({});
  });
