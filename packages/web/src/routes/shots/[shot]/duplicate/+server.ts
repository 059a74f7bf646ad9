import { compareBriefs, describeError, MintError, retargetBrief, type Brief } from '@mint-tally/core';
import { findShot, newestBrief, requestJob, saveBrief, type Queryable, type SavedBrief } from '@mint-tally/store';
import { json } from '@sveltejs/kit';
import * as z from 'zod';
import type { ShotChange } from '$lib/brief/duplicating';
import { answered, shotNumber } from '$lib/server/errors';
import { actor, services } from '$lib/server/services';
import type { RequestHandler } from './$types';

const number = z.number().int().positive();
const requestSchema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('preview'), to: z.array(number).min(1).max(1000), keepFrames: z.boolean() }),
  z.object({
    action: z.literal('give'),
    /** With the version of each that the preview was made from. */
    to: z
      .array(z.object({ id: number, version: number }))
      .min(1)
      .max(1000),
    keepFrames: z.boolean(),
  }),
]);

/** What a brief becomes for another shot, and what that changes there. */
async function workOut(on: Queryable, source: Brief, id: number, keepFrames: boolean): Promise<{ own: SavedBrief; brief: Brief; change: ShotChange }> {
  // One after the other: inside a transaction there is one connection.
  const shot = await findShot(on, id);
  const own = shot && (await newestBrief(on, id));
  if (!shot || !own) throw new MintError('not-found', `There is no shot ${id}.`);
  try {
    const brief = retargetBrief(source, keepFrames ? { ...own.brief, shot: shot.name } : { shot: shot.name });
    return { own, brief, change: { id, name: shot.name, version: own.version, differences: compareBriefs(own.brief, brief), problem: '' } };
  } catch (thrown) {
    if (!(thrown instanceof MintError)) throw thrown;
    return { own, brief: own.brief, change: { id, name: shot.name, version: own.version, differences: [], problem: describeError(thrown) } };
  }
}

/** Shows what giving other shots this one's brief changes in each; then gives it, as a new version of theirs, and counts them against it. */
export const POST: RequestHandler = ({ params, request }) =>
  answered(async () => {
    const wanted = requestSchema.parse(await request.json().catch(() => null));
    const { database } = services();
    const source = await newestBrief(database, shotNumber(params.shot));
    if (!source) throw new MintError('not-found', 'There is no such shot.');
    if (wanted.action === 'preview') {
      const changes: ShotChange[] = [];
      for (const id of wanted.to) changes.push((await workOut(database, source.brief, id, wanted.keepFrames)).change);
      return json({ changes });
    }
    const changes = await database.transaction(async (inside) => {
      const given: ShotChange[] = [];
      // In one order, whoever asks: two who give at once wait for each other instead of standing in each other's way.
      for (const { id, version } of [...wanted.to].sort((a, b) => a.id - b.id)) {
        const { own, brief, change } = await workOut(inside, source.brief, id, wanted.keepFrames);
        if (own.version !== version || change.problem !== '') {
          throw new MintError('changed-since-preview', `The brief of ${change.name} has changed since you looked; nothing was given.`, {
            subject: change.name,
            remedy: 'Look again at what changes.',
          });
        }
        await saveBrief(inside, id, brief, actor);
        await requestJob(inside, id, { kind: 'count' }, actor);
        given.push(change);
      }
      return given;
    });
    return json({ changes });
  });
