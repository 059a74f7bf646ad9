import { clip, median } from '../../statistics.ts';
import { PairedTiles } from './paired-tiles.ts';
import type { Prepared } from './prepared-frame.ts';
import type { Places } from './warp.ts';

/*
 * Where a lens or a movement blurs, every pixel holds many things, and features that are means over the picture's samples are off
 * all over, not at edges alone. What they explain of the picture is structure as far as the frame before shows it as well, at
 * the places that the vectors say; what it does not show is chance, as white and as even as the noise that is left. Where
 * nothing blurs hardly anything is left unfollowed but the rims of things and fine texture, and these stand out of their
 * surroundings in a few pixels.
 */

/** What the features explain of a frame and its neighbour does not follow. */
export interface Unfollowed {
  /** By tile, as a variance, less what features explain of anything, and as a share of what they do; NaN where it was not asked, or there is nothing to tell it by. */
  readonly variance: Float64Array;
  readonly share: Float64Array;
  /** Of tiles where there is much of it, away from rims: the fourth moment over the squared second, three of noise, and how much better pixels side by side go together than in the noise that is left. */
  readonly telling: readonly { readonly peaks: number; readonly smoother: number }[];
  /** Tiles that were asked, and whether that is all. */
  readonly asked: number;
  readonly isWhole: boolean;
}

/** Fewer pixels of a tile away from rims do not tell what noise looks like there. */
const LEAST_AWAY = 128;
/** Features explain about this share of what they cannot know, noise or structure, as they are fitted to it. */
const FITTED = 0.12;
/** Much is so large a share of the noise, and of what the features explain. */
const MUCH_OF_NOISE = 0.1;
const MUCH_OF_EXPLAINED = 0.3;

/** So many rows of tiles, all over the picture, tell whether anything is unfollowed that looks like noise. */
const ENOUGH_ROWS = 8;
/** From the first on tiles look less like noise, from the second on not. */
const PEAKS = [4.5, 6] as const;
const SMOOTHER = [0.04, 0.1] as const;
/** And at less than the first share of the tiles, less than at the second, it says little. */
const TILES = [0.05, 0.1] as const;
/** Frames that may look like it are looked at throughout. */
const NEARLY = 1.5;

/** What of it is noise where nothing is blurred, and from where on all of it is. */
const USUAL_SHARE = [0.25, 0.5] as const;

/**
 * Compares what features explain of a frame with what they explain of its neighbour.
 *
 * @param places of the frame's pixels in the neighbour
 * @param noise variances that features and neighbours leave of it, tile by tile
 */
export function unfollowedBy(own: Prepared, other: Prepared, places: Places, noise: Float64Array): Unfollowed {
  const some = compare(own, other, places, noise, Math.ceil(own.grid.down / ENOUGH_ROWS));
  return some.isWhole || looksLikeNoise([some], NEARLY) === 0 ? some : compare(own, other, places, noise, 1);
}

/** How much what is unfollowed looks like noise: 0 where a shot has none, or rims and texture alone. @param slack by how much more may speak against it */
function looksLikeNoise(frames: readonly Pick<Unfollowed, 'telling' | 'asked'>[], slack = 1): number {
  const told = frames.flatMap(({ telling }) => telling);
  const asked = frames.reduce((sum, frame) => sum + frame.asked, 0);
  if (told.length === 0) return 0;
  const fallen = (value: number, [from, to]: readonly [number, number]) => clip((slack * to - value) / (slack * to - from), 0, 1);
  const risen = ([from, to]: readonly [number, number]) => clip((told.length / asked - from / slack) / (to - from), 0, 1);
  return fallen(median(told.map(({ peaks }) => peaks)), PEAKS) * fallen(median(told.map(({ smoother }) => smoother)), SMOOTHER) * risen(TILES);
}

/**
 * For each frame of a shot, how much of its noise the features have taken for structure, tile by tile, as a share of what they
 * left of it; zero where no frame shows it. Frames that were not looked at throughout are like the nearest that was.
 *
 * @param frames with the variances that features and neighbours leave of them
 */
export function takenByFeatures(frames: readonly { readonly unfollowed: Unfollowed | null; readonly byNeighbours: Float64Array }[]): Float64Array[] {
  const isNoise = looksLikeNoise(frames.flatMap(({ unfollowed }) => unfollowed ?? []));
  const whole = isNoise === 0 ? [] : frames.flatMap(({ unfollowed }, i) => (unfollowed?.isWhole ? i : []));
  return frames.map(({ byNeighbours }, i) => {
    if (whole.length === 0) return byNeighbours.map(() => 0);
    const nearest = whole.reduce((best, one) => (Math.abs(one - i) < Math.abs(best - i) ? one : best));
    const { unfollowed, byNeighbours: noise } = frames[nearest]!;
    const { variance, share } = unfollowed!;
    return noise.map((left, tile) => {
      const taken = variance[tile]! / left;
      return taken > 0 && taken < Infinity ? taken * isNoise * clip((share[tile]! - USUAL_SHARE[0]) / (USUAL_SHARE[1] - USUAL_SHARE[0]), 0, 1) : 0;
    });
  });
}

function compare(own: Prepared, other: Prepared, places: Places, noise: Float64Array, every: number): Unfollowed {
  const { grid, total, variances } = own;
  const pair = new PairedTiles(own, other, places);
  const [variance, share] = [total.map(() => NaN), total.map(() => NaN)];
  const telling: Unfollowed['telling'][number][] = [];
  let asked = 0;
  for (let row = 0; row < grid.down; row += every) {
    for (let column = 0; column < grid.across; column++) {
      const tile = row * grid.across + column;
      if (!Number.isFinite(noise[tile])) continue;
      asked++;
      // What the features do not explain cannot be theirs.
      const fitted = FITTED * variances[tile]!;
      const found = total[tile]! - variances[tile]! > fitted ? pair.compare(column, row) : null;
      if (!found) continue;
      variance[tile] = Math.max(0, found.share * found.explained - fitted);
      share[tile] = found.share;
      if (variance[tile]! > MUCH_OF_NOISE * noise[tile]! && found.share > MUCH_OF_EXPLAINED && found.away >= LEAST_AWAY && found.peaks > 0) telling.push(found);
    }
  }
  return { variance, share, telling, asked, isWhole: every === 1 };
}
