import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { makeReport } from '$lib/server/report';
import { currentProject, services } from '$lib/server/services';
import { loadShotState } from '$lib/server/shot-state';

export const GET = serve(operations.readReport, async ({ shot }) =>
  makeReport(await loadShotState(services().database, shot), (await currentProject()).name, new Date()),
);
