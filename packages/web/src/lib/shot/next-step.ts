import { denoisedPasses, fileCountOf, findingCodes, FrameSet, gateOfFamily, isMendedByRendering } from '@mint-tally/core';
import type { ShotState } from '$lib/server/shot-state';
import { counted } from '$lib/text/format';

/** What to do next with a shot, in a few words. */
export function nextStep(state: Pick<ShotState, 'brief' | 'count' | 'findings' | 'gates' | 'ready' | 'handedOver'>): string {
  if (!state.count) return 'Count it for the first time';
  if (state.count.stale) return 'Count again: the brief changed';
  if (state.handedOver) return 'Handed over';
  if (state.ready) return 'Hand it over';
  const blockers = state.findings.filter((finding) => finding.severity === 'blocker' && !finding.waiver);
  const denoised = denoisedPasses(state.brief);
  const toMake = blockers.filter(({ code, frames }) => isMendedByRendering(code) && !frames.isEmpty);
  const toRender = toMake.filter(({ pass }) => pass === null || !denoised.has(pass));
  const framesOf = (findings: typeof toMake) => findings.reduce((sum, { frames }) => sum.union(frames), FrameSet.empty);
  if (toRender.length > 0) {
    const all = framesOf(toRender);
    const again = framesOf(toRender.filter(({ code }) => findingCodes[code].action === 'again'));
    if (again.isEmpty) return `Render ${counted(all.size, 'frame')}`;
    return again.size === all.size ? `Render ${counted(all.size, 'frame')} again` : `Render ${counted(all.size, 'frame')}, ${again.size} of them again`;
  }
  if (toMake.length > 0) return `Denoise ${counted(framesOf(toMake).size, 'frame')}`;
  const toRename = blockers.filter((finding) => gateOfFamily(finding.family) === 'names');
  if (toRename.length > 0)
    return `Rename ${counted(
      toRename.reduce((sum, finding) => sum + fileCountOf(finding), 0),
      'file',
    )}`;
  if (blockers.length > 0) return `Decide on ${counted(blockers.length, 'finding')}`;
  const open = state.gates.filter((gate) => gate.state === 'unmeasured').map((gate) => gate.name);
  return `Close the gate${open.length === 1 ? '' : 's'} ${open.join(', ')}`;
}
