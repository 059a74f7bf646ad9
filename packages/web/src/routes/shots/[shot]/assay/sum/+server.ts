import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { readSumPicture } from '$lib/server/pictures';
import type { RequestHandler } from './$types';

const querySchema = z.object({ frame: z.coerce.number().int() });

/** Where the lights of a frame do not sum to its beauty. */
export const GET: RequestHandler = ({ params, url, request }) =>
  answered(async () => {
    const { frame } = querySchema.parse(Object.fromEntries(url.searchParams));
    return json(await readSumPicture(shotNumber(params.shot), frame, request.signal));
  });
