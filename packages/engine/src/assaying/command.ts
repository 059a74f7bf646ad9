import { describeError, MintError, sayMeasured, sayOfFigures, type AssayedFrame } from '@mint-tally/core';
import { folderNamed, readBrief, type CommandOutcome } from '../check/command.ts';
import { UsageError, wordsOf } from '../check/words.ts';
import { findingObject, findingLines } from '../check/report.ts';
import { assayFolder, ofAllFrames, type Assay } from './assay-folder.ts';

export const ASSAY_USAGE = 'Usage: ./mint assay FOLDER --brief FILE.json [--json]';

const wrong = (message: string) => new UsageError(message, ASSAY_USAGE);

/** Runs `./mint assay` with no database and no server. Never throws: what fails becomes status 2. */
export async function runAssay(argv: readonly string[], onProgress: (text: string) => void): Promise<CommandOutcome> {
  try {
    const { folder: name, briefFile, json } = parseAssayArguments(argv);
    const folder = folderNamed(name);
    const brief = readBrief(briefFile);
    const assay = await assayFolder({ folder, brief, now: Date.now(), onProgress: (done, total) => onProgress(`${done} of ${total} frames`) });
    if (!assay) throw new MintError('stopped', 'It was stopped.');
    const blocks = assay.findings.some(({ severity }) => severity === 'blocker');
    return { status: blocks ? 1 : 0, output: json ? JSON.stringify(assayObject(assay)) : assayText(assay), error: '' };
  } catch (thrown) {
    return { status: 2, output: '', error: `mint assay: ${describeError(thrown).replace(/\s+/g, ' ')}` };
  }
}

function parseAssayArguments(argv: readonly string[]) {
  const { folder, values } = wordsOf(argv, { brief: { type: 'string' }, json: { type: 'boolean', default: false } }, ASSAY_USAGE);
  if (values.brief === undefined) throw wrong('No brief was named.');
  return { folder, briefFile: values.brief, json: values.json };
}

/** The one object that `./mint assay --json` prints; scripts rely on its shape. */
export function assayObject({ frames, findings, convention }: Assay) {
  const { heldSeeds, wideFilter } = ofAllFrames({ frames, convention });
  return {
    frames: frames.map(({ pass, frame, noise, relativeNoise, temporalNoise, fireflies, meanLuminance, by, tiles }) => ({
      pass,
      frame,
      noise,
      relativeNoise,
      temporalNoise,
      fireflies,
      meanLuminance,
      by,
      tiles: Array.from(tiles, (sigma) => (Number.isFinite(sigma) ? Number(sigma.toPrecision(6)) : null)),
    })),
    findings: findings.map(findingObject),
    heldSeeds,
    wideFilter,
    vectors: convention,
  };
}

/** What `./mint assay` prints for people. */
export function assayText({ frames, findings, convention }: Assay): string {
  const figure = (value: number | null) => (value === null ? '-' : value.toPrecision(3)).padStart(12);
  const row = ({ frame, noise, relativeNoise, temporalNoise, meanLuminance, fireflies }: AssayedFrame) =>
    `${String(frame).padStart(8)}${figure(noise)}${figure(relativeNoise)}${figure(temporalNoise)}${figure(meanLuminance)}${String(fireflies).padStart(12)}`;
  const lines: string[] = [];
  for (const pass of new Set(frames.map((frame) => frame.pass))) {
    const rows = frames.filter((frame) => frame.pass === pass);
    lines.push(pass, `${'frame'.padStart(8)}${['noise', 'relative', 'in time', 'luminance', 'fireflies'].map((title) => title.padStart(12)).join('')}`);
    lines.push(...rows.map(row), `Noise is measured ${sayMeasured(rows)}.`, '');
  }
  lines.push(sayOfFigures(ofAllFrames({ frames, convention })), '');
  for (const finding of findings) lines.push(...findingLines(finding));
  if (findings.length > 0) lines.push('');
  lines.push(findings.some(({ severity }) => severity === 'blocker') ? 'Not ready for a handoff.' : 'Nothing that was measured blocks a handoff.');
  return lines.join('\n');
}
