import * as z from 'zod';
import { frameSetSchema } from '../ranges/index.ts';
import { findingCodes, isFindingCode, type Finding } from '../tally/index.ts';
import { gateNames, type GateName } from './gates.ts';

/**
 * What a waiver accepts. A finding is accepted with the frames and files that it had: when more
 * join it, it stands again. A gate that nothing measures is accepted for the content that was
 * counted then: when a file changes, it is open again.
 */
export const waiverSubjectSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('finding'),
    code: z.string().refine(isFindingCode, 'There is no finding of this code.'),
    pass: z.string().max(1000).nullable(),
    detail: z.string().max(10_000),
    frames: frameSetSchema,
    /** Only of findings that concern no frame. */
    files: z.array(z.string().max(4096)).max(20_000),
  }),
  z.object({ kind: z.literal('gate'), gate: z.enum(gateNames), content: z.string().max(64) }),
]);
export type WaiverSubject = z.output<typeof waiverSubjectSchema>;

/** The subject that accepts a finding as it stands now. */
export function acceptFinding(finding: Finding): WaiverSubject {
  const { code, pass, detail, frames } = finding;
  return { kind: 'finding', code, pass, detail, frames, files: frames.isEmpty ? finding.files : [] };
}

/** Whether a waiver accepts all of a finding. */
export function coversFinding(subject: WaiverSubject, finding: Finding): boolean {
  if (subject.kind !== 'finding' || subject.code !== finding.code || subject.pass !== finding.pass || subject.detail !== finding.detail) return false;
  if (!finding.frames.isEmpty) return finding.frames.isSubsetOf(subject.frames);
  const files = new Set(subject.files);
  return finding.files.every((file) => files.has(file));
}

/**
 * What is waived of a shot as it stands, in words for the other side: findings that are there, and gates for this content. What was
 * accepted of frames that are others now is no matter of theirs.
 */
export function sayWaivers<Accepted extends { readonly subject: WaiverSubject; readonly person: string; readonly reason: string }>(
  waivers: readonly Accepted[],
  findings: readonly Finding[],
  content: string,
): { readonly what: string; readonly person: string; readonly reason: string }[] {
  return waivers.flatMap(({ subject, person, reason }) => {
    if (subject.kind === 'gate') return subject.content === content ? [{ what: `the gate ${subject.gate}`, person, reason }] : [];
    const covered = findings.filter((finding) => coversFinding(subject, finding));
    return covered.map(({ code, pass, frames }) => ({ what: [findingCodes[code].title, pass, String(frames)].filter(Boolean).join(' '), person, reason }));
  });
}

/** The gates that are accepted for this content. */
export function acceptedGates(subjects: readonly WaiverSubject[], content: string): Set<GateName> {
  return new Set(subjects.flatMap((subject) => (subject.kind === 'gate' && subject.content === content ? [subject.gate] : [])));
}
