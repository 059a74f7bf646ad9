import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered } from '$lib/server/errors';
import { readSound } from '$lib/server/folders';
import type { RequestHandler } from './$types';

const querySchema = z.object({ root: z.string().max(32), path: z.string().max(4096).default(''), file: z.string().min(1).max(1024) });

/** The length of a sound file beside the frames. */
export const GET: RequestHandler = ({ url }) =>
  answered(async () => {
    const { root, path, file } = querySchema.parse(Object.fromEntries(url.searchParams));
    return json(readSound(root, path, file));
  });
