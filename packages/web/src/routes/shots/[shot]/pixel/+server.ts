import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { probePixel } from '$lib/server/pictures';
import type { RequestHandler } from './$types';

const whole = z.coerce.number().int().min(-10_000_000).max(10_000_000);
const querySchema = z.object({ frame: whole, x: whole, y: whole });

/** The values of a pixel in every pass of a frame; what JSON has no number for is told as a word. */
export const GET: RequestHandler = ({ params, url, request }) =>
  answered(async () => {
    const { frame, x, y } = querySchema.parse(Object.fromEntries(url.searchParams));
    const passes = await probePixel(shotNumber(params.shot), frame, x, y, request.signal);
    return json(
      passes.map((one) => ({
        ...one,
        values: one.values.map((value) => ({ ...value, value: Number.isFinite(value.value) ? value.value : String(value.value) })),
      })),
    );
  });
