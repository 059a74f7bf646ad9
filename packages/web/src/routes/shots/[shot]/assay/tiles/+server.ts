import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { readFrameTiles } from '$lib/server/assay-tiles';
import { answered, shotNumber } from '$lib/server/errors';
import type { RequestHandler } from './$types';

const querySchema = z.object({ pass: z.string().max(100), frame: z.coerce.number().int() });

/** The noise of a frame, tile by tile; null where it was not measured. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => {
    const { pass, frame } = querySchema.parse(Object.fromEntries(url.searchParams));
    return json(await readFrameTiles(shotNumber(params.shot), pass, frame));
  });
