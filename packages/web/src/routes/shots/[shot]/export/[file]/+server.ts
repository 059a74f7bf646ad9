import { orderSheet, workOutOrder, writeCsv } from '@mint-tally/core';
import { findArrival, newestTally } from '@mint-tally/store';
import { error } from '@sveltejs/kit';
import { rowQuerySchema } from '$lib/files/file-row';
import { answered, shotNumber } from '$lib/server/errors';
import { selectRows } from '$lib/server/file-rows';
import { makeReport } from '$lib/server/report';
import { reportAsPdf } from '$lib/server/report-pdf';
import { currentProject, services } from '$lib/server/services';
import { loadShotState } from '$lib/server/shot-state';
import { stateOfLetter } from '$lib/states/states';
import { isoMoment } from '$lib/text/format';
import type { RequestHandler } from './$types';

/** The newest brief as a file: `brief.json` for `mint check --brief`, `order.csv` for a spreadsheet; and the newest count, `tally.json`, and its files, `files.csv`; and the report, `report.json` and `report.pdf`. */
export const GET: RequestHandler = ({ params, url }) =>
  answered(async () => {
    const state = await loadShotState(services().database, shotNumber(params.shot));
    const { brief, shot } = state;
    const name = shot.name.replace(/[^A-Za-z0-9_-]+/g, '_');
    const file = (text: string, type: string, ending: string) =>
      new Response(text, { headers: { 'Content-Type': `${type}; charset=utf-8`, 'Content-Disposition': `attachment; filename="${name}_${ending}"` } });
    if (params.file === 'brief.json') return file(`${JSON.stringify(brief, null, 2)}\n`, 'application/json', 'brief.json');
    if (params.file === 'order.csv') return file(writeCsv(orderSheet(workOutOrder(brief))), 'text/csv', 'order.csv');
    if (params.file === 'tally.json') {
      const counted = await newestTally(services().database, shot.id);
      if (!counted) error(404, { message: 'Nothing has been counted yet.', remedy: 'Count the shot first.' });
      return file(`${JSON.stringify(counted.tally, null, 2)}\n`, 'application/json', 'tally.json');
    }
    if (params.file === 'files.csv') {
      const { rows } = await selectRows(shot.id, rowQuerySchema.parse(Object.fromEntries(url.searchParams)));
      const lines = rows.map(({ path, pass, frame, state, size, modified, kind, host, samples }) => ({
        file: path,
        pass,
        frame,
        state: stateOfLetter(state),
        bytes: size,
        written: isoMoment(modified),
        kind,
        machine: host ?? '',
        samples: samples ?? '',
      }));
      return file(writeCsv(lines), 'text/csv', 'files.csv');
    }
    if (params.file === 'receipt.json') {
      const arrival = await findArrival(services().database, shot.id);
      if (!arrival?.receipt) error(404, { message: 'There is no receipt: nothing was verified.', remedy: 'Verify the package first.' });
      return file(`${JSON.stringify(arrival.receipt, null, 2)}\n`, 'application/json', 'receipt.json');
    }
    if (params.file === 'report.json' || params.file === 'report.pdf') {
      const report = await makeReport(state, (await currentProject()).name, new Date());
      if (params.file === 'report.json') return file(`${JSON.stringify(report, null, 2)}\n`, 'application/json', 'report.json');
      const headers = { 'Content-Type': 'application/pdf', 'Content-Disposition': `inline; filename="${name}_report.pdf"` };
      return new Response(new Uint8Array(await reportAsPdf(shot.id, report)), { headers });
    }
    error(404, {
      message: 'There is no such export.',
      remedy: 'There are brief.json, order.csv, files.csv, tally.json, report.json, report.pdf and, of a package that arrived, receipt.json.',
    });
  });
