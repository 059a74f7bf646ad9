import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { readStill, readStillNow, readStillOfFrame } from '$lib/server/frames';
import type { RequestHandler } from './$types';

/** A frame of the count that the page shows. */
const frameSchema = z.object({ pass: z.string().max(200), frame: z.coerce.number().int(), counted: z.string().max(40) });

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
    const shot = shotNumber(params.shot);
    if (url.searchParams.has('frame')) {
      const { pass, frame, counted } = frameSchema.parse(Object.fromEntries(url.searchParams));
      return picture(await readStillOfFrame(shot, pass, frame), counted === '' ? 'no-cache' : 'private, max-age=3600');
    }
    const { pass, path, v } = querySchema.parse(Object.fromEntries(url.searchParams));
    const bytes = v === undefined ? await readStillNow(shot, pass, path) : await readStill(shot, pass, path, v);
    return picture(bytes, v === undefined ? 'no-cache' : 'private, max-age=31536000, immutable');
  });

const picture = (bytes: Uint8Array<ArrayBuffer>, keep: string) => new Response(bytes, { headers: { 'Content-Type': 'image/webp', 'Cache-Control': keep } });
