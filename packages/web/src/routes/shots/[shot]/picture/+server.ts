import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { readPicture } from '$lib/server/pictures';
import type { RequestHandler } from './$types';

const whole = z.coerce.number().int().min(0);
const querySchema = z.object({
  pass: z.string().max(200),
  path: z.string().max(4096),
  size: whole,
  modified: z.coerce.number().int(),
  only: z.array(z.string().max(255)).max(4),
  region: z
    .string()
    .regex(/^\d+,\d+,\d+,\d+$/)
    .transform((text) => text.split(',').map(Number) as [number, number, number, number])
    .nullable(),
  reduce: whole.min(1).max(64).default(1),
  /** Another folder inside the roots than the shot's own. */
  root: z.string().max(32).nullable(),
  folder: z.string().max(2048).nullable(),
});

/** A frame's own pixels, or a part of them, as `readPictureMessage` of the core reads them. */
export const GET: RequestHandler = ({ params, url, request }) =>
  answered(async () => {
    const { searchParams } = url;
    const { only, ...question } = querySchema.parse({
      region: null,
      root: null,
      folder: null,
      ...Object.fromEntries(searchParams),
      only: searchParams.getAll('only'),
    });
    const bytes = await readPicture(shotNumber(params.shot), { ...question, only: only.length > 0 ? only : null }, request.signal);
    // Whoever looks keeps what is needed; in the browser's own store it would lie a second time.
    return new Response(bytes, { headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'no-store' } });
  });
