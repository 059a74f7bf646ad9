import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { readRegion } from '$lib/server/assay-tiles';
import { answered, shotNumber } from '$lib/server/errors';
import type { RequestHandler } from './$types';

const pixel = z.coerce.number().int().min(-65_536).max(65_536);
const querySchema = z.object({ left: pixel, top: pixel, width: pixel.min(1), height: pixel.min(1) });

/** What a region of the picture comes to in every frame that was measured. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => {
    const { left, top, width, height } = querySchema.parse(Object.fromEntries(url.searchParams));
    return json(await readRegion(shotNumber(params.shot), [left, top, width, height]));
  });
