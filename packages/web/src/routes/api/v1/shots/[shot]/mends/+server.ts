import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { readMendPage } from '$lib/server/mends';

export const GET = serve(operations.listMends, async ({ shot }) => {
  const { ledger } = await readMendPage(shot, { wish: null, problem: '' }, '');
  return { mends: ledger };
});
