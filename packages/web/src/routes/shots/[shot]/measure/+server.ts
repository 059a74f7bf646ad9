import { jobRequestSchema } from '@mint-tally/core';
import { findRoot, resolveInside } from '@mint-tally/engine';
import { requestJob } from '@mint-tally/store';
import { json } from '@sveltejs/kit';
import { shotNumber, answered } from '$lib/server/errors';
import { actor, services } from '$lib/server/services';
import type { RequestHandler } from './$types';

/** Asks for test frames to be measured. */
export const POST: RequestHandler = ({ params, request }) =>
  answered(async () => {
    const parsed = jobRequestSchema.safeParse({ kind: 'measure', source: await request.json().catch(() => null) });
    if (!parsed.success) return json({ message: 'Write two or more numbers of samples, such as 4 16 64, and a frame.', remedy: '' }, { status: 400 });
    const { database, config } = services();
    if (parsed.data.kind === 'measure' && parsed.data.source.from === 'folder')
      resolveInside(findRoot(config.roots, parsed.data.source.root), parsed.data.source.folder);
    return json({ jobId: await requestJob(database, shotNumber(params.shot), parsed.data, actor) });
  });
