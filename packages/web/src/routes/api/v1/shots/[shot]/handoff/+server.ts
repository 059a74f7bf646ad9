import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { readHandoff } from '$lib/server/handoff';
import { services } from '$lib/server/services';
import { loadShotState } from '$lib/server/shot-state';

export const GET = serve(operations.readHandoff, async ({ shot }) => {
  const { packages, movies, sheets, stamp } = await readHandoff(await loadShotState(services().database, shot));
  return {
    stamp,
    packages: packages.map((one) => ({ ...one, receipts: one.receipts.map((receipt) => ({ ...receipt, problems: receipt.problems.length })) })),
    movies: movies.map((one) => ({ ...one.made, ...one })),
    sheets: sheets.map((one) => ({ ...one.made, ...one })),
  };
});
