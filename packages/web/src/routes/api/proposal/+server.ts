import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered } from '$lib/server/errors';
import { proposeForFolder, readPlace } from '$lib/server/folders';
import type { RequestHandler } from './$types';

const querySchema = z.object({ root: z.string().max(32), path: z.string().max(4096).default('') });

/** The brief that a folder's content suggests. */
export const GET: RequestHandler = ({ url }) =>
  answered(async () => {
    const { root, path } = querySchema.parse(Object.fromEntries(url.searchParams));
    const [proposal, place] = await Promise.all([proposeForFolder(root, path), readPlace(root, path)]);
    return json({ ...proposal, place });
  });
