import { requestJob } from '@mint-tally/store';
import { shotNumber, told } from '$lib/server/errors';
import { actor, services } from '$lib/server/services';
import { acceptAction, withdrawAction } from '$lib/server/shot-actions';
import type { Actions } from './$types';

export const actions: Actions = {
  /** Asks the engine for a count. */
  count: ({ params }) =>
    told(async () => {
      await requestJob(services().database, shotNumber(params.shot), { kind: 'count' }, actor);
      return { asked: true };
    }),
  accept: async ({ params, request }) => {
    const form = await request.formData();
    return told(() => acceptAction(shotNumber(params.shot), form));
  },
  withdraw: async ({ params, request }) => {
    const form = await request.formData();
    return told(() => withdrawAction(shotNumber(params.shot), form));
  },
};
