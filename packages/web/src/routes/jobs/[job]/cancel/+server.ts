import { json } from '@sveltejs/kit';
import { cancelJob } from '@mint-tally/store';
import * as z from 'zod';
import { answered } from '$lib/server/errors';
import { services } from '$lib/server/services';
import type { RequestHandler } from './$types';

/** Asks the engine to stop a job. */
export const POST: RequestHandler = ({ params }) =>
  answered(async () => {
    await cancelJob(services().database, z.coerce.number().int().positive().parse(params.job));
    return json({});
  });
