import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { readStill, readStillNow } from '$lib/server/frames';
import type { RequestHandler } from './$types';

const querySchema = z.object({
  pass: z.string().max(200),
  path: z.string().max(4096),
  v: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .optional(),
});

/** A frame's picture. Where its address names its content, it may be kept for ever. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => {
    const { pass, path, v } = querySchema.parse(Object.fromEntries(url.searchParams));
    const shot = shotNumber(params.shot);
    const bytes = v === undefined ? await readStillNow(shot, pass, path) : await readStill(shot, pass, path, v);
    const keep = v === undefined ? 'no-cache' : 'private, max-age=31536000, immutable';
    return new Response(bytes, { headers: { 'Content-Type': 'image/webp', 'Cache-Control': keep } });
  });
