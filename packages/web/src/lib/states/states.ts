import { findingCodes, frameStates, type Finding, type FrameState } from '@mint-tally/core';

/** What the states are called on the screen. */
export const stateTitles: Record<FrameState, string> = {
  sound: 'sound',
  later: 'to come',
  waived: 'waived',
  odd: 'odd',
  broken: 'broken',
  missing: 'missing',
};

const STATE_OF_LETTER = new Map<string, FrameState>(Object.entries(frameStates).map(([state, letter]) => [letter, state as FrameState]));

/** The state that a lane's letter stands for. */
export function stateOfLetter(letter: string): FrameState {
  return STATE_OF_LETTER.get(letter) ?? 'later';
}

/** The state whose shape marks a finding; null for notes, which mark nothing in the ribbon. */
export function stateOfFinding(finding: Pick<Finding, 'code' | 'severity'> & { waiver: unknown }): FrameState | null {
  if (finding.waiver) return 'waived';
  if (finding.severity === 'note') return null;
  if (finding.code === 'coming-frame') return 'later';
  if (finding.code === 'missing-frame' || finding.code === 'missing-pass') return 'missing';
  return findingCodes[finding.code].family === 'soundness' && finding.severity === 'blocker' ? 'broken' : 'odd';
}
