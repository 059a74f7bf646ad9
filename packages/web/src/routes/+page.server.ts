import { formatFrameRate, formatFrameRange, FrameSet, frameStates, parseFrameRate } from '@mint-tally/core';
import { listShots } from '@mint-tally/store';
import { makeRibbonModel } from '$lib/ribbon/ribbon-model';
import { told } from '$lib/server/errors';
import { currentProject, services } from '$lib/server/services';
import { loadShotState, type ShotState } from '$lib/server/shot-state';
import { nextStep } from '$lib/shot/next-step';
import type { PageServerLoad } from './$types';

const LETTERS = Object.values(frameStates);

/** A shot as one row shows it. */
function summarise(state: ShotState) {
  const { frames, worst } = makeRibbonModel(state.lanes);
  return {
    id: state.shot.id,
    name: state.shot.name,
    note: state.shot.note,
    version: state.briefVersion,
    fps: state.brief.fps === undefined ? '' : formatFrameRate(parseFrameRate(state.brief.fps)),
    range: formatFrameRange(FrameSet.of(frames)),
    states: Array.from(worst.ranks, (rank) => LETTERS[rank]).join(''),
    sound: state.passes.reduce((sum, pass) => sum + pass.sound, 0),
    expected: state.passes.reduce((sum, pass) => sum + pass.expected, 0),
    gates: state.gates,
    handedOver: state.handedOver,
    counted: state.count !== null && !state.count.stale,
    blocked: state.findings.some((finding) => finding.severity === 'blocker' && !finding.waiver),
    next: nextStep(state),
  };
}

export const load: PageServerLoad = () =>
  told(async () => {
    const { database } = services();
    const shots = await listShots(database, (await currentProject()).id);
    return { shots: await Promise.all(shots.map(async (shot) => summarise(await loadShotState(database, shot.id)))) };
  });
