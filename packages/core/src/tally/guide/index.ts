import { adviceCodes, type Severity } from '../../brief/index.ts';
import { families, findingCodes, type FindingCode } from '../codes.ts';
import { adviceGuide } from './advice.ts';
import { countGuide } from './count.ts';
import type { Guide } from './entry.ts';
import { kindGuide } from './kind.ts';
import { noiseGuide, passesGuide } from './assay.ts';
import { namesGuide } from './names.ts';
import { pixelsGuide } from './pixels.ts';
import { soundnessGuide } from './soundness.ts';

export { adviceGuide } from './advice.ts';
export type { Guide } from './entry.ts';

/** What people should know of every finding. */
export const findingGuide: Record<FindingCode, Guide> = {
  ...countGuide,
  ...namesGuide,
  ...soundnessGuide,
  ...kindGuide,
  ...pixelsGuide,
  ...noiseGuide,
  ...passesGuide,
};

const FAMILY_TITLES = { count: 'Count', names: 'Names', soundness: 'Soundness', kind: 'Kind', pixels: 'Pixels', noise: 'Noise', passes: 'Passes' } as const;

/** The document that lists all findings, as Markdown. */
export function writeFindingsDocument(): string {
  const lines = [
    '# Findings',
    '',
    'Every finding has a code, which does not change; scripts may rely on it. A blocker keeps the shot from being handed over, a warning and a note do not. A brief changes the severity of a code with `"severities": { "jump": "blocker" }`, and silences one with `"checks": { "off": ["stray-file"] }`. One fault is told once: there is one finding for each code, pass and differing detail, with its frames in range notation.',
  ];
  for (const family of families) {
    lines.push('', `## ${FAMILY_TITLES[family]}`);
    for (const [code, entry] of Object.entries(findingCodes))
      if (entry.family === family) lines.push(...section(code, entry, findingGuide[code as FindingCode]));
  }
  lines.push(
    '',
    '## Brief',
    '',
    'Said beside the fields of a brief, before anything is rendered. `loop-repeat`, `unsafe-name` and `banding` are said here too.',
  );
  for (const [code, entry] of Object.entries(adviceCodes))
    if (code in adviceGuide) lines.push(...section(code, entry, adviceGuide[code as keyof typeof adviceGuide]));
  return `${lines.join('\n')}\n`;
}

function section(code: string, { severity, title }: { severity: Severity; title: string }, { raised, why, remedy, setting }: Guide): string[] {
  const changes = setting
    ? ` *In the brief:* ${setting
        .split(', ')
        .map((name) => `\`${name}\``)
        .join(', ')}.`
    : '';
  return ['', `### \`${code}\``, '', `**${title}**, ${severity}. ${raised} *Why it matters:* ${why} *What to do:* ${remedy}${changes}`];
}
