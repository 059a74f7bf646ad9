import type { Family, Finding } from '../tally/index.ts';

/** The seven conditions of a handoff, in the order of the coin's segments. */
export const gateNames = ['count', 'soundness', 'names', 'kind', 'passes', 'noise', 'eyes'] as const;
export type GateName = (typeof gateNames)[number];

/**
 * - `closed`: measured, nothing blocks;
 * - `warned`: measured, nothing blocks, but something is odd;
 * - `waived`: what blocks, or was never measured, has been accepted by a named person;
 * - `open`: something blocks;
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
}

/** What closes each gate by measurement; gates that nothing measures yet are closed by hand. */
const FAMILIES_OF_GATE: Record<GateName, readonly Family[]> = {
  count: ['count'],
  // A hole in the picture is as bad as one in the file.
  soundness: ['soundness', 'pixels'],
  names: ['names'],
  kind: ['kind'],
  passes: [],
  noise: [],
  eyes: [],
};

/** Whether a gate is closed by measurement; the others are closed by a named person. */
export function isMeasured(gate: GateName): boolean {
  return FAMILIES_OF_GATE[gate].length > 0;
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
 */
export function workOutGates(findings: readonly Finding[] | null, isWaived: (finding: Finding) => boolean, waivedGates: ReadonlySet<GateName>): Gate[] {
  return gateNames.map((name): Gate => {
    const measured = findings !== null && isMeasured(name);
    const own = (findings ?? []).filter((finding) => FAMILIES_OF_GATE[name].includes(finding.family));
    const standing = own.filter((finding) => !isWaived(finding));
    const blockers = standing.filter((finding) => finding.severity === 'blocker').length;
    const warnings = standing.filter((finding) => finding.severity === 'warning').length;
    const waived = own.filter((finding) => finding.severity === 'blocker').length - blockers;
    return { name, state: stateOf(measured, blockers, warnings, waived, waivedGates.has(name)), blockers, warnings, waived };
  });
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
