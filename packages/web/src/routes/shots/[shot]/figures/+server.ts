import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { readFigures } from '$lib/server/file-rows';
import type { RequestHandler } from './$types';

const querySchema = z.object({ pass: z.string().max(200) });

/** The figures of a pass's files, frame by frame. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => json(await readFigures(shotNumber(params.shot), querySchema.parse(Object.fromEntries(url.searchParams)).pass)));
