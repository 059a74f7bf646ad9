import { writeCsv } from '@mint-tally/core';
import { readMendSteps } from '@mint-tally/store';
import { error } from '@sveltejs/kit';
import { shotNumber, told } from '$lib/server/errors';
import { services } from '$lib/server/services';
import type { RequestHandler } from './$types';

/** What a mend did to every file, as CSV. */
export const GET: RequestHandler = ({ params }) =>
  told(async () => {
    const steps = await readMendSteps(services().database, shotNumber(params.shot), Number(params.mend) || 0);
    if (!steps) error(404, { message: 'There is no such mend.', remedy: 'Choose one from the ledger.' });
    const text = writeCsv(steps.map(({ action, from, to, reason }) => ({ action, from, to, reason })));
    return new Response(text, {
      headers: { 'Content-Type': 'text/csv; charset=utf-8', 'Content-Disposition': `attachment; filename="mend-${params.mend}.csv"` },
    });
  });
