import type { PassFigures } from '../../assay/index.ts';
import { median } from '../../statistics.ts';
import { roughly } from '../../wording.ts';
import type { FindingCollector } from '../findings.ts';

/** Share of the pixels in which a pass's alpha may be another than the beauty's, beyond what the pass usually has; */
const MAY_DIFFER = 0.01;
/** and where all frames are alike, the share from which a light pass is told: the others may cover otherwise on purpose. */
const DIFFERS = 0.02;

/** Frames in which the alpha of a pass is another than that of the beauty. */
export function findOtherAlphas(collector: FindingCollector, frames: readonly PassFigures[]): void {
  const told = frames.filter(({ alphaGap }) => alphaGap !== null);
  if (told.length === 0) return;
  const usual = median(told.map(({ alphaGap }) => alphaGap!));
  for (const { pass, role, frame, file, alphaGap } of told) {
    if (alphaGap! <= Math.max(MAY_DIFFER, 3 * usual) && !(role === 'light' && usual >= DIFFERS && alphaGap! >= DIFFERS)) continue;
    collector.add('alpha-mismatch', pass, { frame, file, evidence: `In ${roughly(alphaGap! * 100)} % of the pixels.` });
  }
}
