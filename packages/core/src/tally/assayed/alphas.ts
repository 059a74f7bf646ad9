import type { PassFigures } from '../../assay/index.ts';
import { roughly } from '../../wording.ts';
import type { FindingCollector } from '../findings.ts';
import { beyondUsual } from './beyond-usual.ts';

/** Share of the pixels in which a pass's alpha may be another than the beauty's, beyond what the pass usually has; */
const MAY_DIFFER = 0.01;
/** and where all frames are alike, the share from which a light pass is told: the others may cover otherwise on purpose. */
const DIFFERS = 0.02;

/** Frames in which the alpha of a pass is another than that of the beauty. */
export function findOtherAlphas(collector: FindingCollector, frames: readonly PassFigures[]): void {
  const isLight = frames[0]?.role === 'light';
  const all = (usual: number) => (isLight && usual >= DIFFERS ? DIFFERS : Infinity);
  for (const { pass, frame, file, share } of beyondUsual(frames, 'alphaGap', MAY_DIFFER, all))
    collector.add('alpha-mismatch', pass, { frame, file, evidence: `In ${roughly(share * 100)} % of the pixels.` });
}
