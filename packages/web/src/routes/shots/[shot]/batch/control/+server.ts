import { json } from '@sveltejs/kit';
import { controlRequestSchema, startRequestSchema } from '$lib/batch/batch-view';
import { controlBatch, startBatch } from '$lib/server/batches';
import { answered, shotNumber } from '$lib/server/errors';
import type { RequestHandler } from './$types';

/** Begins a batch. */
export const PUT: RequestHandler = ({ params, request }) =>
  answered(async () => json({ batch: await startBatch(shotNumber(params.shot), startRequestSchema.parse(await request.json().catch(() => null))) }));

/** Pauses it, lets it go on, stops it, takes a machine out or starts one again. */
export const POST: RequestHandler = ({ params, request }) =>
  answered(async () => {
    await controlBatch(shotNumber(params.shot), controlRequestSchema.parse(await request.json().catch(() => null)));
    return json({});
  });
