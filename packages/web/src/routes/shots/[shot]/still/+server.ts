import { z } from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { readStill } from '$lib/server/frames';
import type { RequestHandler } from './$types';

const querySchema = z.object({ pass: z.string().max(200), path: z.string().max(4096), v: z.string().regex(/^[0-9a-f]{64}$/) });

/** A frame's picture. Its address names its content, so it may be kept for ever. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => {
    const { pass, path, v } = querySchema.parse(Object.fromEntries(url.searchParams));
    const bytes = await readStill(shotNumber(params.shot), pass, path, v);
    return new Response(bytes, { headers: { 'Content-Type': 'image/webp', 'Cache-Control': 'private, max-age=31536000, immutable' } });
  });
