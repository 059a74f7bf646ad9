import { conventions, MintError } from '@mint-tally/core';
import { newestBrief, readAssay, requestJob, saveBrief } from '@mint-tally/store';
import { fail } from '@sveltejs/kit';
import * as z from 'zod';
import { shotNumber, told } from '$lib/server/errors';
import { actor, services } from '$lib/server/services';
import { waiverActions } from '$lib/server/shot-actions';
import type { Actions, PageServerLoad } from './$types';

/** The figures of the newest assay, also where the frames are others by now: the page says so. */
export const load: PageServerLoad = ({ params }) => told(async () => ({ figures: await readAssay(services().database, shotNumber(params.shot)) }));

/** A place in the list of conventions; -1 to find it. */
const choiceSchema = z.coerce
  .number()
  .int()
  .min(-1)
  .max(conventions.length - 1);

export const actions: Actions = {
  /** Asks the engine to measure the frames, and to count them. */
  measure: ({ params }) =>
    told(async () => {
      await requestJob(services().database, shotNumber(params.shot), { kind: 'assay' }, actor);
      return { asked: true };
    }),
  /** Says in the brief what the motion vectors mean, or that it is to be found; counts against the new version. */
  vectors: async ({ params, request }) => {
    const choice = choiceSchema.safeParse((await request.formData()).get('convention'));
    if (!choice.success) return fail(400, { refused: 'Choose what the vectors mean.' });
    return told(async () => {
      const shotId = shotNumber(params.shot);
      await services().database.transaction(async (inside) => {
        const saved = await newestBrief(inside, shotId);
        if (!saved) throw new MintError('no-brief', 'The shot or its brief is not there any more.');
        const passes = saved.brief.passes.map((pass) => (pass.role === 'motion' ? { ...pass, vectors: conventions[choice.data] } : pass));
        await saveBrief(inside, shotId, { ...saved.brief, passes }, actor);
        await requestJob(inside, shotId, { kind: 'count' }, actor);
      });
      return { said: true };
    });
  },
  ...waiverActions,
};
