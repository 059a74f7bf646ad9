import { requestJob } from '@mint-tally/store';
import { shotNumber, told } from '$lib/server/errors';
import { actor, services } from '$lib/server/services';
import { waiverActions } from '$lib/server/shot-actions';
import type { Actions } from './$types';

export const actions: Actions = {
  /** Asks the engine for a count. */
  count: ({ params }) =>
    told(async () => {
      await requestJob(services().database, shotNumber(params.shot), { kind: 'count' }, actor);
      return { asked: true };
    }),
  ...waiverActions,
};
