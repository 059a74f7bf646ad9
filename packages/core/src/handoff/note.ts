import { sayConvention } from '../assay/index.ts';
import type { Brief, BriefPass, PassRole } from '../brief/index.ts';
import { parseFrameRange } from '../ranges/index.ts';
import type { Finding } from '../tally/index.ts';
import { formatFrameRate, parseFrameRate } from '../timing/index.ts';

/** What is known of a shot that a compositor wants to know. */
export interface NoteFacts {
  readonly brief: Brief;
  /** Of the newest count and assay. */
  readonly findings: readonly Finding[];
  readonly isWaived: (finding: Finding) => boolean;
  /** What was accepted, by whom and why. */
  readonly waivers: readonly { readonly what: string; readonly person: string; readonly reason: string }[];
  /** What the motion vectors mean, as it was found or said; null where nobody knows. */
  readonly vectors: string | null;
  readonly isAssayed: boolean;
}

const LIST_MOST = 12;

/**
 * A note to the compositor, put together from what was ordered and measured: what each pass is, how the passes sum, what was
 * waived, what is known to be odd. In plain lines that read well as they are (Markdown).
 */
export function composeNote(facts: NoteFacts): string {
  const { brief, findings, isWaived, waivers } = facts;
  const frames = parseFrameRange(brief.range);
  const known = findings.filter((finding) => finding.severity !== 'note' && !isWaived(finding));
  const lines = [
    `# ${[brief.shot, brief.version].filter(Boolean).join(' ')}: note to the compositor`,
    '',
    [
      `Frames ${brief.range} (${frames.size})`,
      ...(brief.fps === undefined ? [] : [`${formatFrameRate(parseFrameRate(brief.fps))} frames a second`]),
      ...(brief.resolution ? [`${brief.resolution.join(' x ')} pixels`] : []),
      ...(brief.pixelAspect === undefined || brief.pixelAspect === 1 ? [] : [`pixel aspect ${brief.pixelAspect}`]),
      ...(brief.handles ? [`${brief.handles[0]} frames of handle before and ${brief.handles[1]} behind the cut`] : []),
    ].join(', ') + '.',
    '',
    '## Passes',
    '',
    ...brief.passes.map((pass) => `- **${pass.name}**: ${sayPass(pass, facts)}.`),
    '',
    ...sayLights(facts),
    ...section(
      'Waived',
      waivers.map(({ what, person, reason }) => `${what}: ${reason} (${person})`),
    ),
    ...section(
      'Known',
      known.map(({ pass, frames: at, message }) => `${[pass, String(at)].filter(Boolean).join(' ')}: ${message}`),
    ),
  ];
  return `${lines.join('\n').trimEnd()}\n`;
}

function sayPass({ role, alpha, colourSpace, depth, channels, range, vectors, denoisedFrom }: BriefPass, facts: NoteFacts): string {
  return [
    ...(role === undefined ? [] : [ROLES[role]]),
    ...(denoisedFrom === undefined ? [] : [`${denoisedFrom} without its noise; it stands for no light of its own`]),
    ...(channels ? [`channels ${channels.join(' ')}`] : []),
    ...(depth === undefined ? [] : [/^\d+$/.test(depth) ? `${depth} bit` : depth]),
    ...(alpha === undefined ? [] : [alpha === 'none' ? 'no alpha' : `${alpha} alpha`]),
    ...(colourSpace === undefined ? [] : [`colour space ${colourSpace}`]),
    ...(role === 'motion' ? [`vectors: ${vectors ? sayConvention(vectors) : (facts.vectors ?? 'what they mean was not measured')}`] : []),
    ...(range === undefined ? [] : [`frames ${range}`]),
  ]
    .join(', ')
    .replace(/^$/, 'as its files say');
}

const ROLES: Record<PassRole, string> = {
  beauty: 'the whole picture',
  light: 'a part of the light',
  half: 'half of the samples, for measuring noise',
  albedo: 'colour of surfaces without light',
  normal: 'directions of surfaces',
  depth: 'distance from the camera, in units of the scene',
  motion: 'motion vectors',
  occlusion: 'ambient occlusion, 0 to 1',
  matte: 'mattes, 0 to 1',
  id: 'numbers of things',
  other: 'a pass of its own kind',
};

/** How the passes sum: by what was measured, and otherwise as it was ordered. */
function sayLights({ brief, findings, isAssayed }: NoteFacts): string[] {
  const lights = brief.passes.filter(({ role, denoisedFrom }) => role === 'light' && denoisedFrom === undefined).map(({ name }) => name);
  if (lights.length === 0) return [];
  const odd = findings.find(({ code }) => code === 'sum-mismatch');
  const sum = `${lights.join(' + ')} = beauty`;
  return [odd ? `The lights do not sum to the beauty everywhere: ${odd.message}` : isAssayed ? `Measured: ${sum}.` : `Ordered, not measured: ${sum}.`, ''];
}

function section(title: string, lines: readonly string[]): string[] {
  if (lines.length === 0) return [];
  const more = lines.length > LIST_MOST ? [`- and ${lines.length - LIST_MOST} more, in tally.json`] : [];
  return [`## ${title}`, '', ...lines.slice(0, LIST_MOST).map((line) => `- ${line}`), ...more, ''];
}
