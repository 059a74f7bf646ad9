import { readAssay } from '@mint-tally/store';
import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { services } from '$lib/server/services';
import { loadShotState } from '$lib/server/shot-state';

export const GET = serve(operations.readAssay, async ({ shot }) => {
  const { database } = services();
  // An assay of other frames says nothing of these.
  const state = await loadShotState(database, shot);
  return { assay: state.assay === null ? null : await readAssay(database, shot) };
});
