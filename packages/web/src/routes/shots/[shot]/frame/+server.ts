import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { readFrameInfo } from '$lib/server/frames';
import type { RequestHandler } from './$types';

const querySchema = z.object({ pass: z.string().max(200), frame: z.coerce.number().int() });

/** What is known of one frame of one pass. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => {
    const { pass, frame } = querySchema.parse(Object.fromEntries(url.searchParams));
    return json(await readFrameInfo(shotNumber(params.shot), pass, frame));
  });
