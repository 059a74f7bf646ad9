import { clip, median } from '../../statistics.ts';
import { towardsLikeTiles } from './like-tiles.ts';
import type { Cut, FrameFigures } from './measure-frame.ts';
import { giveBack, sharedAlongShot } from './shared-noise.ts';
import { givingBackAtEdges } from './shared-samples.ts';
import { noiseOfStanding, roughnessOfStanding } from './standing.ts';
import { quantile } from './tiles.ts';
import { takenByFeatures } from './unfollowed.ts';
import { isSmootherThanTexture, pixelFilterOf, unlessTexture } from './wide-filter.ts';

/** A frame's figures, and which frames its neighbours were, as places in the list of all. */
export interface MeasuredFrame {
  readonly figures: FrameFigures;
  readonly neighbours: readonly number[];
  /** By two halves of its samples, tile by tile; null where there are none. */
  readonly exact?: Float64Array | null;
}

/** What is known of the noise of one frame. */
export interface FrameNoise {
  /** Root mean square over tiles of their standard deviations of luminance; null where there is nothing to measure. */
  readonly noise: number | null;
  /** The same relative to each tile's brightness. */
  readonly relativeNoise: number | null;
  /** What moves with the picture taken away, from frame to frame; without vectors over what stands still, and null where nothing does. */
  readonly temporalNoise: number | null;
  /** Standard deviation of each tile, row by row; NaN where there is nothing to measure. */
  readonly tiles: Float64Array;
  /** How it was measured: by halves of its samples, exactly; beside its neighbours in time; or by what a single frame shows, which reads texture as noise that its features do not explain. */
  readonly by: 'halves' | 'neighbours' | 'features' | 'picture';
}

/** What holds for all passes of a picture, and is recognised in the whole of it: one light may hold nothing but edges. */
export interface Sampling {
  /** How rough the noise is, near 1 where its pixels are independent; NaN of no frames. */
  readonly roughness: number;
  /** The same random numbers from frame to frame: noise stands still. */
  readonly heldSeeds: boolean;
}

/** What was recognised of the whole shot. */
export interface ShotNoise extends Pick<Sampling, 'heldSeeds'> {
  readonly frames: readonly FrameNoise[];
  /** The pixel filter joins neighbouring pixels. */
  readonly wideFilter: boolean;
  /** How many pixels' noise goes together, as far as means over many are concerned: 1 where each is for itself. */
  readonly joinedPixels: number;
}

/** The light around a pixel holds its own noise, and explains so much of it. */
const OWN_LIGHT = 1.01;
/** Above this correlation from frame to frame seeds are held. */
const HELD = 0.3;
/** This share of the tiles may have less: where seeds are new, tiles without texture show it; those with some never do. */
const HELD_EVERYWHERE = 0.25;
/** And what goes together is no rougher than this, beside the noise of the pass: structure that stands still does so as well. */
const AS_ROUGH_AS_NOISE = 1.25;
/** Other frames that say how much structure a tile has. */
const WITNESSES = 4;
const LEAST_SPREAD = 0.12;
/** Tiles of which the features leave so many times what the neighbours do are cut low. */
const LOW_CUT_FROM = 4;
/**
 * Of the variance of a tile's structure: what is left of it is less, and both are known by some pixels only. In pictures of
 * few tiles as much is cut as stands out: one spike would make their noise leap from frame to frame.
 */
const MOST_CUT = 2;
const FEW_TILES = 100;
/**
 * What is found again in a neighbour no better than the first is noise, and of what was cut of it most is spared, as a power;
 * better than the second it is structure.
 */
const LIKE_NOISE = 0.45;
const LIKE_STRUCTURE = 0.6;
const SPARED = 0.75;
/** A tile counts in time where so much of it is seen in the neighbour. */
const SEEN = 0.25;

/**
 * Brings the figures of a shot's frames together: each tile's structure is judged by other frames, whose noise is independent
 * of its own.
 *
 * @param sampling of the picture that the pass is a part of: the edges of a light without noise tell nothing of the pixel
 *   filter, and look like noise that stands still where they move by less than a pixel
 */
export function noiseAlongShot(frames: readonly MeasuredFrame[], hasFeatures: boolean, { roughness, heldSeeds }: Sampling = samplingOf(frames)): ShotNoise {
  const { isWide: wideFilter, widening, joinedPixels } = pixelFilterOf(roughness);
  const gains = frames.map(({ figures: { byFeatures, byNeighbours } }) => byFeatures.map((own, tile) => gainOf(own, byNeighbours[tile]!)));
  const witnessed = frames.map((_, i) => witnessOf(gains, i));
  const backs = givingBackAtEdges(
    frames.map(({ figures }) => figures),
    widening,
  );
  const beside = frames.map(({ figures }, i) => ({ ...figures, byNeighbours: backs[i]!(figures.byNeighbours) }));
  const shared = sharedAlongShot(beside);
  const variances = frames.map(({ figures }, i) => {
    if (figures.held.length === 0) return backs[i]!(figures.byFeaturesOwnCut[1]);
    if (heldSeeds) return backs[i]!(whereHeld(figures));
    return giveBack(backs[i]!(chosen(figures, witnessed[i]!)), beside[i]!, shared);
  });
  const pooled = variances.map((one, i) => {
    const { figures } = frames[i]!;
    return heldSeeds || figures.held.length === 0 ? one : towardsLikeTiles(pool(variances, witnessed[i]!, i), figures, witnessed[i]!);
  });
  // Where seeds are held a neighbour shows the same chance.
  const taken = heldSeeds ? [] : takenByFeatures(frames.map(({ figures }) => figures));
  /** Beside what is given back already. */
  const givenBack = (i: number, tile: number) => {
    const [own, left] = [variances[i]![tile]!, frames[i]!.figures.byNeighbours[tile]!];
    const share = taken[i]?.[tile] ?? 0;
    return Number.isFinite(left) ? Math.max(0, share * left - Math.max(0, own - left)) : share * own;
  };
  const factor = (hasFeatures ? OWN_LIGHT : 1) ** 2 * widening;
  const final = pooled.map((one, i) => frames[i]!.exact?.map((sigma) => sigma ** 2) ?? one.map((variance, tile) => (variance + givenBack(i, tile)) * factor));
  return {
    heldSeeds,
    wideFilter,
    joinedPixels,
    frames: frames.map(({ figures, neighbours, exact }, i): FrameNoise => {
      const tiles = final[i]!.map(Math.sqrt);
      return {
        noise: rootMeanSquare(tiles),
        relativeNoise: rootMeanSquare(tiles.map((sigma, tile) => sigma / (figures.mean[tile]! + 0.01))),
        temporalNoise:
          neighbours.length === 0
            ? figures.standing && noiseOfStanding(figures.standing, widening)
            : temporal(figures, final[i]!, final[neighbours[0]!]!, heldSeeds, factor),
        tiles,
        // Neighbours that hold the same noise do not tell it from structure.
        by: exact ? 'halves' : neighbours.length > 0 && !heldSeeds ? 'neighbours' : hasFeatures ? 'features' : 'picture',
      };
    }),
  };
}

/** How the frames of a pass were sampled, as far as their noise shows it. */
export function samplingOf(frames: readonly MeasuredFrame[]): Sampling {
  const middle = (values: readonly number[]) => quantile(values, 0.5);
  const roughness = middle(frames.map(({ figures }) => roughnessOf(figures)));
  const correlation = middle(frames.flatMap(({ figures }) => figures.held.map((held) => quantile(held, HELD_EVERYWHERE))));
  const shared = middle(frames.flatMap(({ figures }) => figures.sharedRoughness));
  const heldSeeds = correlation > HELD && shared < AS_ROUGH_AS_NOISE * (isSmootherThanTexture(roughness) ? roughness : 1);
  // Where neighbours hold the same noise they seem to explain it, and what they do not is structure: what is shared tells of the filter then.
  return { roughness: heldSeeds ? unlessTexture(Math.min(shared, roughness)) : roughness, heldSeeds };
}

/** Structure that nothing explains is smooth as well: where only that is there, noise is looked for where nothing moves. */
function roughnessOf({ roughness, standing }: FrameFigures): number {
  return roughness ?? (standing ? roughnessOfStanding(standing) : NaN);
}

/** How much more the features leave than the neighbours do, as a logarithm. Where there is nothing, neither leaves more. */
function gainOf(byFeatures: number, byNeighbours: number): number {
  return byFeatures === 0 && byNeighbours === 0 ? 0 : Math.log(byFeatures / byNeighbours);
}

/** By tile, how much more the features alone leave than the neighbours do, as the nearest other frames say. */
function witnessOf(gains: readonly Float64Array[], frame: number): Float64Array {
  const others = gains
    .map((_, i) => i)
    .filter((i) => i !== frame && gains[i]!.some(Number.isFinite))
    .sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame))
    .slice(0, WITNESSES);
  return gains[frame]!.map((own, tile) => {
    const said = others.map((i) => gains[i]![tile]!).filter(Number.isFinite);
    return said.length > 0 ? said.reduce((sum, value) => sum + value, 0) / said.length : own;
  });
}

/**
 * Where other frames found structure what stands out is likely to be more of it, and is cut low, and so it is where a neighbour has
 * the like; elsewhere it is a spike of the noise, of which no more is cut than structure could have left, and most of that is
 * spared where it is known that no neighbour has the like.
 *
 * @param whole what it is without a cut
 * @param gain how much more the features leave than the neighbours do, as others say, as a logarithm
 */
function cutAt([low, high]: Cut, whole: Float64Array, { total, persistence }: FrameFigures, tile: number, gain: number): number {
  const byGain = clip(gain / Math.log(LOW_CUT_FROM), 0, 1);
  const isFew = whole.length < FEW_TILES;
  const found = isFew ? NaN : clip((persistence[tile]! - LIKE_NOISE) / (LIKE_STRUCTURE - LIKE_NOISE), 0, 1);
  const structure = Math.max(byGain, found || 0);
  const least = isFew ? 0 : whole[tile]! - MOST_CUT * Math.max(0, total[tile]! - whole[tile]!);
  const cut = low[tile]! * structure + (least > high[tile]! ? least : high[tile]!) * (1 - structure);
  return cut > 0 && !Number.isNaN(found) ? cut * (whole[tile]! / cut) ** (SPARED * (1 - structure)) : cut;
}

/** The neighbours' estimate where others found structure, the features' where they found none. */
function chosen(figures: FrameFigures, witnessed: Float64Array): Float64Array {
  const spread = Math.max(LEAST_SPREAD, -quantile(witnessed, 0.1) / 1.28);
  return figures.byFeaturesCut[0].map((_, tile) => {
    const byFeatures = cutAt(figures.byFeaturesCut, figures.byFeatures, figures, tile, witnessed[tile]!);
    const byNeighbours = cutAt(figures.byNeighboursCut, figures.byNeighbours, figures, tile, witnessed[tile]!);
    if (!Number.isFinite(byNeighbours)) return byFeatures;
    const share = clip((witnessed[tile]! / spread - 0.5) / 1.5, 0, 1);
    return share * byNeighbours + (1 - share) * byFeatures;
  });
}

/** Tiles with structure are told by the two nearest frames as well: what leaks into one does not into the next. */
function pool(variances: readonly Float64Array[], witnessed: Float64Array, frame: number): Float64Array {
  const near = variances
    .map((_, i) => i)
    .filter((i) => i !== frame)
    .sort((a, b) => Math.abs(a - frame) - Math.abs(b - frame))
    .slice(0, 2);
  const own = variances[frame]!;
  const steps = near.map((j) => {
    const differences = Array.from(own, (variance, tile) => Math.log(variance) - Math.log(variances[j]![tile]!)).filter(Number.isFinite);
    return differences.length > 0 ? median(differences) : 0;
  });
  return own.map((variance, tile) => {
    const weight = clip(Math.log(Math.exp(witnessed[tile]!) / 1.5) / Math.log(4), 0, 1);
    let [sum, weights] = [Math.log(variance), 1];
    near.forEach((j, k) => {
      const theirs = Math.log(variances[j]![tile]!) + steps[k]!;
      if (weight > 0 && Number.isFinite(theirs)) [sum, weights] = [sum + weight * theirs, weights + weight];
    });
    return Math.exp(sum / weights);
  });
}

/** Where the neighbours hold the same noise they cannot tell it from texture: the features do, but where the pictures differ. */
function whereHeld(figures: FrameFigures): Float64Array {
  return figures.byFeaturesOwnCut[0].map((byFeatures, tile) => {
    const held = figures.held[0]![tile]!;
    const byNeighbours = figures.byNeighboursCut[0][tile]!;
    if (byFeatures === 0 || !Number.isFinite(held) || !Number.isFinite(byNeighbours)) return byFeatures;
    const share = clip((0.7 - held) / 0.5, 0, 1);
    return Math.exp((1 - share) * Math.log(byFeatures) + share * Math.log(Math.min(byNeighbours, byFeatures)));
  });
}

/** Over tiles that are seen in the neighbour: the noise of both, or where seeds are held and nothing moves, what differs. */
function temporal(figures: FrameFigures, own: Float64Array, neighbour: Float64Array, heldSeeds: boolean, factor: number): number | null {
  const [known, still] = [figures.known[0]!, figures.still[0]!];
  const tiles = own.map((variance, tile) => {
    if (known[tile]! < SEEN) return NaN;
    const both = (variance + neighbour[tile]!) / 2;
    const share = heldSeeds ? still.share[tile]! : 0;
    const difference = still.difference[tile]! * factor;
    return share > 0 && Number.isFinite(difference) ? share * Math.min(difference, both) + (1 - share) * both : both;
  });
  return rootMeanSquare(tiles.map(Math.sqrt));
}

function rootMeanSquare(values: Float64Array): number | null {
  const told = values.filter(Number.isFinite);
  return told.length === 0 ? null : Math.sqrt(told.reduce((sum, value) => sum + value * value, 0) / told.length);
}
