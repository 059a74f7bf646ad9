import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered } from '$lib/server/errors';
import { listOtherPictures, listOtherSequences } from '$lib/server/other-folder';
import type { RequestHandler } from './$types';

const querySchema = z.object({ root: z.string().max(32), folder: z.string().max(2048), sequence: z.string().max(4096).optional() });

/** What can be compared with in a folder inside the roots; with a name, its files. */
export const GET: RequestHandler = ({ url }) =>
  answered(async () => {
    const { root, folder, sequence } = querySchema.parse(Object.fromEntries(url.searchParams));
    return json(sequence === undefined ? await listOtherSequences(root, folder) : await listOtherPictures(root, folder, sequence));
  });
