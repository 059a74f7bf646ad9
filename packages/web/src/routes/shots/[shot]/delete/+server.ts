import { readShotHoldings, removeShot } from '@mint-tally/store';
import { json } from '@sveltejs/kit';
import { answered, shotNumber } from '$lib/server/errors';
import { services } from '$lib/server/services';
import type { RequestHandler } from './$types';

/** What goes with the shot. */
export const GET: RequestHandler = ({ params }) => answered(async () => json(await readShotHoldings(services().database, shotNumber(params.shot))));

/** Deletes the shot with what hangs on it; files on disk are not touched. */
export const DELETE: RequestHandler = ({ params }) =>
  answered(async () => {
    await services().database.transaction((inside) => removeShot(inside, shotNumber(params.shot)));
    return json({});
  });
