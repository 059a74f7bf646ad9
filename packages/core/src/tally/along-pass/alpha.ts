import type { AlphaFacts } from '../../assay/index.ts';
import { isAlphaName } from '../../formats/index.ts';
import { median } from '../../statistics.ts';
import type { FindingCollector } from '../findings.ts';
import type { SeenFrame, SeenPass } from './seen-pass.ts';

/** Share of pixels that must be covered in part before their colours say anything. */
const ENOUGH_PARTIAL = 0.0005;
/** Colours that exceed the alpha in this share of those pixels do so everywhere. */
const EVERYWHERE = 0.9;
/** Straight colours do not fade with the alpha; thin pixels are then as bright as thick ones. */
const DOES_NOT_FADE = 0.75;

/** A picture with so much that is nothing at all, under an alpha of 1, should have had holes. */
const EMPTY = 0.02;

/** Holds what is ordered of the alpha against what the file says and what the pixels show. */
export function findWrongAlpha(collector: FindingCollector, pass: SeenPass): void {
  const wanted = pass.ordered.pass.alpha;
  if (wanted === undefined || wanted === 'none') return;
  const withAlpha = pass.frames.filter((frame) => frame.layer?.alpha && !frame.isBlank);
  const opaque: SeenFrame[] = [];
  withAlpha.forEach((frame, i) => {
    const alpha = frame.layer!.alpha!;
    const problem = problemOf(frame, alpha, wanted) ?? suddenlyFlat(alpha, withAlpha[i - 1], withAlpha[i + 1]);
    if (alpha.min >= 1) opaque.push(frame);
    if (problem === null) return;
    collector.add('wrong-alpha', pass.name, { frame: frame.frame, file: frame.file.path, detail: problem.detail, evidence: problem.evidence });
  });
  if (opaque.length === 0 || opaque.length < withAlpha.length || median(opaque.map(emptyShare)) < EMPTY) return;
  for (const { frame, file } of withAlpha) collector.add('flat-alpha', pass.name, { frame, file: file.path });
}

/** Share of pixels in which every colour is exactly zero, at most. */
function emptyShare({ channels }: SeenFrame): number {
  return Math.min(...channels.filter(({ name }) => !isAlphaName(name)).map(({ zero }) => zero));
}

interface Problem {
  readonly detail: string;
  readonly evidence: string;
}

function problemOf(frame: SeenFrame, alpha: AlphaFacts, wanted: 'straight' | 'premultiplied'): Problem | null {
  const { alphaKind } = frame.header;
  if (alphaKind && alphaKind !== wanted) {
    return { detail: `${alphaKind} alpha where ${wanted} is ordered`, evidence: `The file says of itself that its alpha is ${alphaKind}.` };
  }
  if (alpha.max <= 0) {
    return { detail: 'an alpha of 0 throughout', evidence: 'The alpha is 0 in every pixel, although there are colours.' };
  }
  if (wanted === 'premultiplied' && looksStraight(alpha)) {
    const share = Math.round(alpha.exceeding * 100);
    return { detail: 'straight colours where premultiplied is ordered', evidence: `In ${share} % of the partly covered pixels the colour exceeds the alpha.` };
  }
  return null;
}

function looksStraight({ partial, exceeding, thinColour, thickColour }: AlphaFacts): boolean {
  if (partial < ENOUGH_PARTIAL || exceeding < EVERYWHERE) return false;
  return thinColour === null || thickColour === null || thickColour <= 0 || thinColour / thickColour > DOES_NOT_FADE;
}

/** One value all over, between two frames that both have holes and covered parts. */
function suddenlyFlat(alpha: AlphaFacts, before: SeenFrame | undefined, after: SeenFrame | undefined): Problem | null {
  if (alpha.min !== alpha.max || !before || !after) return null;
  const varies = (frame: SeenFrame) => frame.layer!.alpha!.min <= 0 && frame.layer!.alpha!.max > 0.5;
  if (!varies(before) || !varies(after)) return null;
  return { detail: `an alpha of ${alpha.min} throughout`, evidence: `The alpha is ${alpha.min} in every pixel; in the frames around it varies.` };
}
