import type { Order } from '../brief/index.ts';
import { parseFrameRange } from '../ranges/index.ts';
import { findingCodes } from './codes.ts';
import { concernsPass } from './concern.ts';
import type { Finding } from './findings.ts';

/**
 * States of a frame in the ribbon, one letter each, best first: where several frames share a
 * column of pixels, the last of these letters wins.
 */
export const frameStates = { sound: 's', later: 'l', waived: 'w', odd: 'o', broken: 'b', missing: 'm' } as const;
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
      if (finding.severity === 'note' || finding.frames === '' || !concernsPass(order, ordered, finding)) continue;
      const letter = isWaived(finding) ? frameStates.waived : stateOf(finding);
      for (const frame of parseFrameRange(finding.frames)) {
        const index = ordered.frames.indexOf(frame);
        if (index >= 0 && stateRank(letter) > stateRank(states[index])) states[index] = letter;
      }
    }
    return { pass: ordered.pass.name, frames: ordered.pass.range ?? order.brief.range, states: states.join('') };
  });
}

function stateOf(finding: Finding): string {
  if (finding.code === 'coming-frame') return frameStates.later;
  if (finding.code === 'missing-frame' || finding.code === 'missing-pass') return frameStates.missing;
  if (findingCodes[finding.code].family === 'soundness' && finding.severity === 'blocker') return frameStates.broken;
  return frameStates.odd;
}
