import type { PassFigures } from '../../assay/index.ts';
import { median } from '../../statistics.ts';

type Share = 'odd' | 'nothingMet' | 'alphaGap';

/** So many times what a pass usually has stand out. */
const TIMES = 3;

/**
 * Frames of a pass in which a share of the pixels is beyond what the pass usually has; those that do not tell it are left out.
 *
 * @param may share that is let pass in any frame
 * @param all where all frames are alike, the share from which each of them is meant, told what is usual
 */
export function beyondUsual(frames: readonly PassFigures[], of: Share, may: number, all: (usual: number) => number) {
  const told = frames.flatMap((figures) => (figures[of] === null ? [] : [{ ...figures, share: figures[of] }]));
  if (told.length === 0) return [];
  const usual = median(told.map(({ share }) => share));
  return told.filter(({ share }) => share > Math.max(may, TIMES * usual) || share >= all(usual));
}
