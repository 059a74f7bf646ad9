import { findingCodes, type Brief, type Finding, type PassRole } from '@mint-tally/core';

/** A pass that steadying and denoising work with. */
export interface Need {
  readonly role: PassRole;
  readonly what: string;
  /** The pass of the brief; null where none is ordered. */
  readonly pass: string | null;
  /** What stands against using it, as titles of findings; empty where it is there, sound and in step. */
  readonly against: readonly string[];
}

const ROLES: readonly (readonly [PassRole, string])[] = [
  ['motion', 'brings frames onto each other'],
  ['depth', 'tells what is hidden'],
  ['albedo', 'keeps texture apart from noise'],
  ['normal', 'keeps shape apart from noise'],
];

/** What steadying and denoising need, and whether the shot has it. @param findings that nobody has waived */
export function needsOf({ passes }: Brief, findings: readonly Pick<Finding, 'code' | 'pass' | 'severity'>[]): Need[] {
  return ROLES.map(([role, what]) => {
    const pass = passes.find((one) => one.role === role)?.name ?? null;
    const own = findings.filter((finding) => pass !== null && finding.pass === pass && finding.severity !== 'note');
    return { role, what, pass, against: [...new Set(own.map(({ code }) => findingCodes[code].title))] };
  });
}
