import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { readMeasures } from '$lib/server/file-rows';
import type { RequestHandler } from './$types';

const querySchema = z.object({ pass: z.string().max(200) });

/** What is measured of a pass's files, frame by frame. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => json(await readMeasures(shotNumber(params.shot), querySchema.parse(Object.fromEntries(url.searchParams)).pass)));
