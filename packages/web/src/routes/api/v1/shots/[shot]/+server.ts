import { acceptFinding, workOutOrder } from '@mint-tally/core';
import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { countsOf } from '$lib/server/report';
import { services } from '$lib/server/services';
import { loadShotState } from '$lib/server/shot-state';

export const GET = serve(operations.readShot, async ({ shot }) => {
  const state = await loadShotState(services().database, shot);
  return {
    ...state.shot,
    ...{ briefVersion: state.briefVersion, ready: state.ready, refusal: state.refusal, handedOver: state.handedOver, counted: state.count },
    ...{ passes: countsOf(state, workOutOrder(state.brief)), gates: [...state.gates] },
    findings: state.findings.map((finding) => ({ ...finding, frames: String(finding.frames), subject: acceptFinding(finding) })),
  };
});
