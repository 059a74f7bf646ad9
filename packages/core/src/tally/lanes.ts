import type { Order } from '../brief/index.ts';
import { findingCodes } from './codes.ts';
import { concernsPass } from './concern.ts';
import type { Finding } from './findings.ts';

/**
 * States of a frame in the ribbon, one letter each, best first: where several frames share a
 * column of pixels, the last of these letters wins. Every ordered frame of a pass is in exactly one:
 * `wrong` is what a blocker stops that is neither missing nor broken (its name, its kind, a hole in its
 * picture), `odd` what is to be looked at.
 */
export const frameStates = { sound: 's', later: 'l', waived: 'w', odd: 'o', wrong: 'x', broken: 'b', missing: 'm' } as const;
export type FrameState = keyof typeof frameStates;

const STATE_ORDER = Object.values(frameStates).join('');

/** How bad a state letter is; the higher wins. */
export function stateRank(letter: string): number {
  return STATE_ORDER.indexOf(letter);
}

/** One pass's states, a letter for each of its ordered frames, ascending. */
export interface Lane {
  readonly pass: string;
  readonly frames: string;
  readonly states: string;
}

/**
 * The ribbon's lanes: every ordered frame of every pass with the worst that is known of it.
 *
 * @param findings of the tally; pass null when nothing has been counted yet, and all is `later`
 * @param isWaived whether a finding has been accepted
 */
export function makeLanes(order: Order, findings: readonly Finding[] | null, isWaived: (finding: Finding) => boolean): Lane[] {
  return order.passes.map((ordered) => {
    const states = new Array<string>(ordered.frames.size).fill(findings ? frameStates.sound : frameStates.later);
    for (const finding of findings ?? []) {
      const state = stateOfFinding(finding, isWaived(finding));
      if (state === null || finding.frames.isEmpty || !concernsPass(order, ordered, finding)) continue;
      const letter = frameStates[state];
      for (const frame of finding.frames) {
        const index = ordered.frames.indexOf(frame);
        if (index >= 0 && stateRank(letter) > stateRank(states[index]!)) states[index] = letter;
      }
    }
    return { pass: ordered.pass.name, frames: ordered.pass.range ?? order.brief.range, states: states.join('') };
  });
}

/** The state that a finding puts its frames into; null for notes, which say nothing against a frame. */
export function stateOfFinding({ code, severity }: Pick<Finding, 'code' | 'severity'>, isWaived: boolean): FrameState | null {
  if (severity === 'note') return null;
  if (isWaived) return 'waived';
  if (code === 'coming-frame') return 'later';
  if (severity !== 'blocker') return 'odd';
  if (code === 'missing-frame' || code === 'missing-pass') return 'missing';
  return findingCodes[code].family === 'soundness' ? 'broken' : 'wrong';
}

/** How many ordered frames of all passes are in each state; together as many as were ordered. */
export function countStates(lanes: readonly Lane[]): Record<FrameState, number> {
  const sums: Record<FrameState, number> = { sound: 0, later: 0, waived: 0, odd: 0, wrong: 0, broken: 0, missing: 0 };
  const names = Object.keys(frameStates) as FrameState[];
  for (const { states } of lanes) for (const letter of states) sums[names[stateRank(letter)]!]++;
  return sums;
}
