import { findingCodes, nextActions, severities, type Family, type NextAction, type Severity } from '@mint-tally/core';
import type { ShownFinding } from '$lib/server/shot-state';

/** How the groups of the docket are called: what to do next. */
export const actionTitles: Record<NextAction, string> = { render: 'To render', again: 'Render again', decide: 'Decide', tidy: 'Tidy', wait: 'Wait for' };

export const familyTitles: Record<Family, string> = {
  count: 'Count',
  names: 'Names',
  soundness: 'Soundness',
  kind: 'Kind',
  pixels: 'Pixels',
  noise: 'Noise',
  passes: 'Passes',
};
export const severityTitles: Record<Severity, string> = { blocker: 'Blockers', warning: 'Warnings', note: 'Notes' };

/** What of the docket is shown; an empty text shows all. */
export interface DocketFilter {
  family: string;
  pass: string;
  severity: string;
}

/** Whether a finding is of the kind that is asked for. What concerns no pass belongs to none. */
export function matches(finding: ShownFinding, { family, pass, severity }: DocketFilter): boolean {
  return (family === '' || finding.family === family) && (pass === '' || finding.pass === pass) && (severity === '' || finding.severity === severity);
}

/** Findings that say the same of several passes; one row of the docket. */
export interface DocketEntry {
  readonly key: string;
  /** At least one; the others differ from it in their pass and files only. */
  readonly findings: readonly [ShownFinding, ...ShownFinding[]];
}

export interface DocketGroup {
  readonly title: string;
  readonly entries: readonly DocketEntry[];
}

/** Sorts findings into groups by what to do next, blockers first; what was waived comes last. */
export function groupFindings(findings: readonly ShownFinding[]): DocketGroup[] {
  const entries = joinPasses(findings);
  const groups: DocketGroup[] = nextActions.map((action) => ({
    title: actionTitles[action],
    entries: entries
      .filter(({ findings: [first] }) => !first.waiver && findingCodes[first.code].action === action)
      .sort((a, b) => severities.indexOf(a.findings[0].severity) - severities.indexOf(b.findings[0].severity)),
  }));
  groups.push({ title: 'Waived', entries: entries.filter(({ findings: [first] }) => first.waiver) });
  return groups.filter((group) => group.entries.length > 0);
}

/** A machine that stopped leaves the same hole in every pass: that is one thing to do, not twelve. */
function joinPasses(findings: readonly ShownFinding[]): DocketEntry[] {
  const byContent = new Map<string, [ShownFinding, ...ShownFinding[]]>();
  for (const finding of findings) {
    const { code, detail, frames, message, waiver } = finding;
    const key = JSON.stringify([code, detail, frames, message, waiver ? [waiver.person, waiver.reason] : null, frames.isEmpty ? finding.pass : '']);
    const alike = byContent.get(key);
    if (alike) alike.push(finding);
    else byContent.set(key, [finding]);
  }
  return [...byContent].map(([key, joined]) => ({ key, findings: joined }));
}

/** The passes of an entry in words. */
export function passesOf(entry: DocketEntry, passCount: number): string {
  const names = entry.findings.flatMap((finding) => (finding.pass === null ? [] : [finding.pass]));
  if (names.length > 1 && names.length === passCount) return `all ${passCount} passes`;
  return names.length > 3 ? `${names.length} passes` : names.join(', ');
}
