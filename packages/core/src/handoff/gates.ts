import { leftToWatch, type PassEyes } from '../eyes/index.ts';
import type { Family, Finding } from '../tally/index.ts';

/** The seven conditions of a handoff, in the order of the coin's segments. */
export const gateNames = ['count', 'soundness', 'names', 'kind', 'passes', 'noise', 'eyes'] as const;
export type GateName = (typeof gateNames)[number];

/**
 * - `closed`: measured, nothing blocks;
 * - `warned`: measured, nothing blocks, but something is odd;
 * - `waived`: what blocks, or was never measured, has been accepted by a named person;
 * - `open`: something blocks, or frames are left to be watched;
 * - `unmeasured`: nobody has looked yet.
 */
export type GateState = 'closed' | 'warned' | 'waived' | 'open' | 'unmeasured';

export interface Gate {
  readonly name: GateName;
  readonly state: GateState;
  /** Blocking findings that nobody accepted. */
  readonly blockers: number;
  readonly warnings: number;
  readonly waived: number;
  /** Frames that are still to be watched; of the eyes alone. */
  readonly unwatched: number;
}

/** What closes each gate by findings. The eyes are closed by watching; gates that nothing measures yet by hand. */
const FAMILIES_OF_GATE: Record<GateName, readonly Family[]> = {
  count: ['count'],
  // A hole in the picture is as bad as one in the file.
  soundness: ['soundness', 'pixels'],
  names: ['names'],
  kind: ['kind'],
  passes: ['passes'],
  noise: ['noise'],
  eyes: [],
};

/** What measures a gate. What an assay finds keeps its gate open; that it finds nothing closes it only where it has looked. */
const MEASURED_BY: Record<GateName, 'count' | 'assay' | null> = {
  count: 'count',
  soundness: 'count',
  names: 'count',
  kind: 'count',
  passes: 'assay',
  noise: 'assay',
  eyes: null,
};

/** Whether a count closes a gate; the others are closed by an assay, by a named person, or by watching. */
export function isMeasured(gate: GateName): boolean {
  return MEASURED_BY[gate] === 'count';
}

/** The gate that a family of findings belongs to. */
export function gateOfFamily(family: Family): GateName {
  return gateNames.find((gate) => FAMILIES_OF_GATE[gate].includes(family))!;
}

/**
 * Works out the seven gates.
 *
 * @param findings of the newest count, or null when there is none that counts
 * @param isWaived whether a finding has been accepted
 * @param waivedGates gates that a named person accepted as a whole
 * @param eyes what has been seen of the frames of the newest count, or null when there is none that counts
 * @param isAssayed whether the frames of the newest count have been assayed, and the findings hold what that found
 */
export function workOutGates(
  findings: readonly Finding[] | null,
  isWaived: (finding: Finding) => boolean,
  waivedGates: ReadonlySet<GateName>,
  eyes: readonly PassEyes[] | null,
  isAssayed = false,
): Gate[] {
  return gateNames.map((name): Gate => {
    if (name === 'eyes') return eyesGate(eyes, waivedGates.has(name));
    const measured = findings !== null && (isMeasured(name) || (isAssayed && MEASURED_BY[name] === 'assay'));
    const own = (findings ?? []).filter((finding) => FAMILIES_OF_GATE[name].includes(finding.family));
    const standing = own.filter((finding) => !isWaived(finding));
    const blockers = standing.filter((finding) => finding.severity === 'blocker').length;
    const warnings = standing.filter((finding) => finding.severity === 'warning').length;
    const waived = own.filter((finding) => finding.severity === 'blocker').length - blockers;
    return { name, state: stateOf(measured, blockers, warnings, waived, waivedGates.has(name)), blockers, warnings, waived, unwatched: 0 };
  });
}

/** Closed when every frame of every pass that is to be watched has been: whole, at the ordered rate and at 100 %. */
function eyesGate(eyes: readonly PassEyes[] | null, accepted: boolean): Gate {
  const wanted = (eyes ?? []).filter((one) => one.wanted);
  const unwatched = wanted.reduce((sum, one) => sum + leftToWatch(one).size, 0);
  const watched = wanted.reduce((sum, one) => sum + one.watched.size, 0);
  const isClosed = eyes !== null && unwatched === 0 && (watched > 0 || wanted.length === 0);
  const state = isClosed ? 'closed' : accepted ? 'waived' : watched > 0 || wanted.some((one) => !one.partly.isEmpty) ? 'open' : 'unmeasured';
  return { name: 'eyes', state, blockers: 0, warnings: 0, waived: 0, unwatched };
}

function stateOf(measured: boolean, blockers: number, warnings: number, waived: number, accepted: boolean): GateState {
  if (!measured) return accepted ? 'waived' : 'unmeasured';
  if (blockers > 0) return accepted ? 'waived' : 'open';
  if (waived > 0) return 'waived';
  return warnings > 0 ? 'warned' : 'closed';
}

/** Whether every gate lets the shot through. */
export function isReadyForHandoff(gates: readonly Gate[]): boolean {
  return gates.every((gate) => gate.state !== 'open' && gate.state !== 'unmeasured');
}
