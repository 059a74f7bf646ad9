import { readAssay, requestJob } from '@mint-tally/store';
import { shotNumber, told } from '$lib/server/errors';
import { actor, services } from '$lib/server/services';
import { waiverActions } from '$lib/server/shot-actions';
import type { Actions, PageServerLoad } from './$types';

/** The figures of the newest assay, also where the frames are others by now: the page says so. */
export const load: PageServerLoad = ({ params }) => told(async () => ({ figures: await readAssay(services().database, shotNumber(params.shot)) }));

export const actions: Actions = {
  /** Asks the engine to measure the frames that were counted. */
  measure: ({ params }) =>
    told(async () => {
      await requestJob(services().database, shotNumber(params.shot), { kind: 'assay' }, actor);
      return { asked: true };
    }),
  ...waiverActions,
};
