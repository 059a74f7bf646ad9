import { findingCodes, type Finding, type Tally } from '@mint-tally/core';

/** The one object that `./mint check --json` prints, and packages carry; scripts rely on its shape. */
export function checkObject(tally: Tally) {
  const passes = tally.passes.map(({ name, expected, sound, missing, broken, unexpected }) => ({ name, expected, sound, missing, broken, unexpected }));
  return { ready: tally.ready, passes, findings: tally.findings.map(findingObject) };
}

/** A finding as commands print it. */
export function findingObject({ code, severity, pass, frames, files, message }: Finding) {
  return { code, severity, pass, frames, files, message };
}

/** What `./mint check` prints for people. */
export function checkText(tally: Tally): string {
  const lines: string[] = [];
  const width = Math.max(...tally.passes.map((pass) => pass.name.length));
  for (const pass of tally.passes) {
    const troubles = [['missing', pass.missing] as const, ['broken', pass.broken] as const, ['unexpected', pass.unexpected] as const].flatMap(
      ([what, frames]) => (frames.isEmpty ? [] : [`${what} ${frames}`]),
    );
    lines.push(`${pass.name.padEnd(width)}  ${pass.sound} of ${pass.expected} sound${troubles.length > 0 ? `; ${troubles.join('; ')}` : ''}`);
  }
  if (tally.findings.length > 0) lines.push('');
  for (const finding of tally.findings) lines.push(...findingLines(finding));
  lines.push('', tally.ready ? 'Nothing blocks a handoff.' : 'Not ready for a handoff.');
  return lines.join('\n');
}

/** A finding for people. */
export function findingLines(finding: Finding): string[] {
  const where = [finding.pass ?? '', String(finding.frames)].filter((part) => part !== '').join('  ');
  const lines = [`${finding.severity.padEnd(8)} ${finding.code}  ${where}`.trimEnd(), `         ${findingCodes[finding.code].title}: ${finding.message}`];
  const shown = finding.evidence.slice(0, 3);
  if (finding.files.length > 1 || finding.evidence.length === 0) {
    for (const { file, message } of shown) lines.push(`         ${file}: ${message}`);
    const rest = finding.files.length - shown.length;
    if (shown.length === 0) for (const file of finding.files.slice(0, 3)) lines.push(`         ${file}`);
    if (rest > (shown.length === 0 ? 3 : 0)) lines.push(`         and ${shown.length === 0 ? rest - 3 : rest} more`);
  } else lines.push(`         ${finding.files[0]}`);
  return lines;
}
