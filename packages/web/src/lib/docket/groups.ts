import { findingCodes, nextActions, severities, type NextAction } from '@mint-tally/core';
import type { ShownFinding } from '$lib/server/shot-state';

/** How the groups of the docket are called: what to do next. */
export const actionTitles: Record<NextAction, string> = { render: 'Render again', decide: 'Decide', tidy: 'Tidy' };

export interface DocketGroup {
  readonly title: string;
  readonly findings: readonly ShownFinding[];
}

/** Sorts findings into groups by what to do next, blockers first; what was accepted comes last. */
export function groupFindings(findings: readonly ShownFinding[]): DocketGroup[] {
  const standing = findings.filter((finding) => !finding.waiver);
  const groups: DocketGroup[] = nextActions.map((action) => ({
    title: actionTitles[action],
    findings: standing
      .filter((finding) => findingCodes[finding.code].action === action)
      .sort((a, b) => severities.indexOf(a.severity) - severities.indexOf(b.severity)),
  }));
  groups.push({ title: 'Accepted', findings: findings.filter((finding) => finding.waiver) });
  return groups.filter((group) => group.findings.length > 0);
}

/** Tells findings apart from one count to the next. */
export function findingKey(finding: ShownFinding): string {
  return JSON.stringify([finding.code, finding.pass, finding.detail]);
}
