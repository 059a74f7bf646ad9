import { json } from '@sveltejs/kit';
import { rowQuerySchema } from '$lib/files/file-row';
import { answered, shotNumber } from '$lib/server/errors';
import { selectRows } from '$lib/server/file-rows';
import type { RequestHandler } from './$types';

/** A page of the table of files. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => {
    const { from, count, ...query } = rowQuerySchema.parse(Object.fromEntries(url.searchParams));
    return json({ ...(await selectRows(shotNumber(params.shot), query, from, count)), from });
  });
