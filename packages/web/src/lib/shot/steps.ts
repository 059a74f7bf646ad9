import { findingCodes, type GateState } from '@mint-tally/core';
import type { ShotState } from '$lib/server/shot-state';

/** How far a step of the work has come: nothing, part, something is wrong, done. */
export type StepMark = 'empty' | 'half' | 'wrong' | 'done';

export interface Step {
  readonly path: 'brief' | 'batch' | 'tally' | 'view' | 'assay' | 'mend' | 'handoff';
  readonly title: string;
  readonly mark: StepMark;
  /** The mark in words. */
  readonly says: string;
}

const BATCH_MARKS: Record<NonNullable<ShotState['batch']> | 'none', Pick<Step, 'mark' | 'says'>> = {
  none: { mark: 'empty', says: 'nothing rendered here' },
  running: { mark: 'half', says: 'goes on' },
  stopped: { mark: 'half', says: 'was stopped' },
  failed: { mark: 'wrong', says: 'failed' },
  done: { mark: 'done', says: 'done' },
};

const NOT_WATCHED: Pick<Step, 'mark' | 'says'> = { mark: 'empty', says: 'not watched' };
const EYES_MARKS: Record<GateState, Pick<Step, 'mark' | 'says'>> = {
  open: { mark: 'half', says: 'watched in part' },
  unmeasured: NOT_WATCHED,
  warned: NOT_WATCHED,
  waived: { mark: 'half', says: 'signed for' },
  closed: { mark: 'done', says: 'watched' },
};

/** What was measured of passes and noise. */
function assayMark({ assay, gates }: ShotState): Pick<Step, 'mark' | 'says'> {
  const own = gates.filter(({ name }) => name === 'passes' || name === 'noise');
  if (own.some(({ state }) => state === 'open')) return { mark: 'wrong', says: 'something stops the handoff' };
  if (assay === null) return own.every(({ state }) => state === 'waived') ? { mark: 'half', says: 'signed for' } : { mark: 'empty', says: 'not measured' };
  return own.some(({ state }) => state !== 'closed') ? { mark: 'half', says: 'warnings stand' } : { mark: 'done', says: 'measured' };
}

/** Whether something lies about or bears a wrong name. */
function mendMark({ count, findings }: ShotState): Pick<Step, 'mark' | 'says'> {
  if (count === null || count.stale) return { mark: 'empty', says: 'not counted' };
  const own = findings.filter(({ code, waiver }) => !waiver && findingCodes[code].action === 'tidy');
  if (own.length === 0) return { mark: 'done', says: 'nothing to tidy' };
  return own.some(({ severity }) => severity === 'blocker') ? { mark: 'wrong', says: 'names to put right' } : { mark: 'half', says: 'something to tidy' };
}

/** The steps of a shot in the order of the work. */
export function stepsOf(state: ShotState): Step[] {
  const { count, findings, gates, ready, handedOver } = state;
  const blocked = findings.some((finding) => finding.severity === 'blocker' && !finding.waiver);
  const counted = count !== null && !count.stale;
  const tally: Pick<Step, 'mark' | 'says'> = !counted
    ? { mark: 'empty', says: 'not counted' }
    : blocked
      ? { mark: 'wrong', says: 'something stops the handoff' }
      : gates.some((gate) => gate.state === 'warned')
        ? { mark: 'half', says: 'warnings stand' }
        : { mark: 'done', says: 'nothing stops the handoff' };
  return [
    { path: 'brief', title: 'Brief', mark: 'done', says: 'saved' },
    { path: 'batch', title: 'Batch', ...BATCH_MARKS[state.batch ?? 'none'] },
    { path: 'tally', title: 'Tally', ...tally },
    { path: 'view', title: 'View', ...EYES_MARKS[gates.find(({ name }) => name === 'eyes')?.state ?? 'unmeasured'] },
    { path: 'assay', title: 'Assay', ...assayMark(state) },
    { path: 'mend', title: 'Mend', ...mendMark(state) },
    {
      path: 'handoff',
      title: 'Handoff',
      ...(handedOver ? { mark: 'done', says: 'handed over' } : ready ? { mark: 'half', says: 'ready' } : { mark: 'empty', says: 'not ready' }),
    },
  ];
}
