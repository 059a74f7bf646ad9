import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered } from '$lib/server/errors';
import { readFolder } from '$lib/server/folders';
import type { RequestHandler } from './$types';

const querySchema = z.object({ root: z.string().max(32), path: z.string().max(4096).default('') });

/** The folders inside a folder of a root. */
export const GET: RequestHandler = ({ url }) =>
  answered(async () => {
    const { root, path } = querySchema.parse(Object.fromEntries(url.searchParams));
    return json(await readFolder(root, path));
  });
