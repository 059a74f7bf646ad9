import { sightSchema } from '@mint-tally/core';
import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { noteSights } from '$lib/server/eyes';
import type { RequestHandler } from './$types';

const bodySchema = z.object({
  pass: z.string().max(100),
  /** Whoever sits there; empty where no name was given. */
  person: z.string().trim().max(200),
  sights: z.array(sightSchema).max(5000),
});

/** Notes which frames somebody has seen, and how. */
export const POST: RequestHandler = ({ params, request }) =>
  answered(async () => json(await noteSights(shotNumber(params.shot), bodySchema.parse(await request.json().catch(() => null)))));
