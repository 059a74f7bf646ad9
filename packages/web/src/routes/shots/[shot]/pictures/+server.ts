import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { listPictures } from '$lib/server/pictures';
import type { RequestHandler } from './$types';

const querySchema = z.object({ pass: z.string().max(200) });

/** The files that a pass shows, frame by frame. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => json(await listPictures(shotNumber(params.shot), querySchema.parse(Object.fromEntries(url.searchParams)).pass)));
