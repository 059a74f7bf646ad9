import { clip, median } from '../../statistics.ts';
import type { FrameFigures } from './measure-frame.ts';
import { isWellSeen } from './structure.ts';

/** The neighbours alone leave about this share of the structure in a picture. */
const LEFT_BY_SIGHTS = 0.2;
/** And this share more of the noise itself, as they are fewer than all columns: what is beyond it is shared. */
const LEAST_SHARED = 0.06;
/** Tiles with less noise for their structure, as variances, tell nothing: what the neighbours leave of them is structure and nothing else. */
const LEAST_NOISE = 0.1;
/** Noise over structure of all tiles that tell, below which they tell too little, and above which they tell it. */
const TOO_CLEAN = 0.3;
const NOISY = 0.9;

/** Whether a tile tells what the neighbours alone leave of its noise. */
function isTelling(figures: FrameFigures, tile: number): boolean {
  const [noise, all] = [figures.byNeighbours[tile]!, figures.total[tile]!];
  return isWellSeen(figures, tile) && Number.isFinite(figures.bySights[tile]) && noise >= LEAST_NOISE * (all - noise);
}

/** How much more the neighbours alone leave of a frame than with the features, as a share, and how much noise there is for its structure. */
function besideStructure(figures: FrameFigures): { readonly more: number; readonly noisiness: number } | null {
  const { byNeighbours, bySights, total } = figures;
  let [told, bySight, structure] = [0, 0, 0];
  byNeighbours.forEach((variance, tile) => {
    if (!isTelling(figures, tile)) return;
    told += variance;
    bySight += bySights[tile]!;
    structure += Math.max(0, total[tile]! - variance);
  });
  return told > 0 ? { more: bySight / told - 1, noisiness: told / structure } : null;
}

/**
 * Features share the samples of the picture: what is wrong in both at once they explain although it is noise. At edges that is
 * given back already (shared-samples.ts), and where it lies all over and is seen to be chance it is later (unfollowed.ts). Neighbours
 * do not share the samples, and leave it, with a part of the structure: where a tile is noisy, little of it. Behind a pixel filter,
 * which is not told so, and at the rims of things before a sky, this gives it back.
 *
 * @returns the share of the noise that features explain, over the frames
 */
export function sharedAlongShot(frames: readonly FrameFigures[]): number {
  const told = frames.flatMap((figures) => (figures.held.length > 0 ? (besideStructure(figures) ?? []) : []));
  if (told.length === 0) return 0;
  const shared = median(told.map(({ more, noisiness }) => Math.max(0, more - LEFT_BY_SIGHTS / noisiness - LEAST_SHARED)));
  return shared * clip((median(told.map(({ noisiness }) => noisiness)) - TOO_CLEAN) / (NOISY - TOO_CLEAN), 0, 1);
}

/** Gives back what features took of the noise, in the tiles that tell where neighbours alone leave more. */
export function giveBack(variances: Float64Array, figures: FrameFigures, shared: number): Float64Array {
  const beside = besideStructure(figures);
  if (shared === 0 || !beside || !(beside.more > 0)) return variances;
  const share = Math.min(1, shared / beside.more);
  return variances.map((variance, tile) => {
    const own = figures.byNeighbours[tile]!;
    return own > 0 && isTelling(figures, tile) ? variance * (1 + share * (figures.bySights[tile]! / own - 1)) : variance;
  });
}
