import { MintError, retargetBrief } from '@mint-tally/core';
import { findShot, newestBrief, requestJob, saveBrief } from '@mint-tally/store';
import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { answered, shotNumber } from '$lib/server/errors';
import { actor, services } from '$lib/server/services';
import type { RequestHandler } from './$types';

const requestSchema = z.object({ to: z.array(z.number().int().positive()).min(1).max(1000), keepFrames: z.boolean() });

/** Gives other shots this one's brief, as a new version of theirs, and counts them against it. */
export const POST: RequestHandler = ({ params, request }) =>
  answered(async () => {
    const { to, keepFrames } = requestSchema.parse(await request.json().catch(() => null));
    const { database } = services();
    const source = await newestBrief(database, shotNumber(params.shot));
    if (!source) throw new MintError('not-found', 'There is no such shot.');
    await database.transaction(async (inside) => {
      for (const id of to) {
        const [shot, own] = await Promise.all([findShot(inside, id), newestBrief(inside, id)]);
        if (!shot || !own) throw new MintError('not-found', `There is no shot ${id}.`);
        await saveBrief(inside, id, retargetBrief(source.brief, keepFrames ? { ...own.brief, shot: shot.name } : { shot: shot.name }), actor);
        await requestJob(inside, id, { kind: 'count' }, actor);
      }
    });
    return json({ shots: to.length });
  });
