import { FrameSet, stateOfFinding } from '@mint-tally/core';
import { newestCount, readFindings, type Queryable } from '@mint-tally/store';

/** Which frames of which pass nothing stands against, by the newest count; where nothing was counted, every frame that is there. */
export async function soundFrames(on: Queryable, shotId: number): Promise<(pass: string, frame: number) => boolean> {
  const counted = await newestCount(on, shotId);
  const bad = new Map<string, FrameSet>();
  for (const finding of counted ? await readFindings(on, counted.id) : []) {
    const state = stateOfFinding(finding, false);
    if (finding.pass !== null && state !== null && state !== 'odd') bad.set(finding.pass, (bad.get(finding.pass) ?? FrameSet.empty).union(finding.frames));
  }
  return (pass, frame) => !(bad.get(pass)?.has(frame) ?? false);
}
