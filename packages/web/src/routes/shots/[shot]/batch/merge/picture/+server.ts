import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { readMergePicture } from '$lib/server/merges';
import type { RequestHandler } from './$types';

const querySchema = z.object({ pass: z.string().max(200), source: z.coerce.number().int().min(0).max(1000), path: z.string().min(1).max(4096) });

/** The picture of a file that takes part in the shot's newest merge. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => {
    const { pass, source, path } = querySchema.parse(Object.fromEntries(url.searchParams));
    const bytes = await readMergePicture(shotNumber(params.shot), pass, source, path);
    // The file may change; the picture is asked for again.
    return new Response(bytes, { headers: { 'Content-Type': 'image/webp', 'Cache-Control': 'private, no-cache' } });
  });
