/** Below this roughness nothing is allowed for, from the other on all of it. */
const LEAST_JOINED = 1.06;
const SURELY_JOINED = 1.14;
/** Where few tiles tell it edges and chance make it larger: by this over the root of their number. */
const OF_FEW_TILES = 0.5;
/** Texture that no pass shows may be as smooth as this. */
const AS_TEXTURE = 1.4;
/**
 * By the roughness of noise of spectrum exp(-s^2 |w|^2), s .1 to .7: how much of its variance the high pass leaves, and how
 * much of it there is at all beside what there was before it was filtered (the square of the mean of exp(-s^2 w^2) over w
 * from -pi to pi).
 */
const TABLE = [
  { roughness: 1.024, highPassed: 0.945, left: 0.937 },
  { roughness: 1.1, highPassed: 0.793, left: 0.779 },
  { roughness: 1.25, highPassed: 0.588, left: 0.591 },
  { roughness: 1.51, highPassed: 0.382, left: 0.425 },
  { roughness: 1.94, highPassed: 0.22, left: 0.302 },
  { roughness: 2.61, highPassed: 0.115, left: 0.218 },
  { roughness: 3.62, highPassed: 0.057, left: 0.162 },
] as const;
/** Beyond this there is hardly any noise left to tell it by. */
const WIDEST = 8;

/** What a pixel filter does to noise of this roughness. */
export interface PixelFilter {
  /** It joins neighbouring pixels. */
  readonly isWide: boolean;
  /** The noise's variance beside that of it which the high pass leaves. */
  readonly widening: number;
  /** How many pixels go together: a mean over many varies as many times as much as it would were each for itself. A filter takes from the noise of a pixel, and nothing from that of a mean. */
  readonly joinedPixels: number;
}

/** @param roughness near 1 where pixels are independent; where it is unknown (NaN) they are taken to be */
export function pixelFilterOf(roughness: number): PixelFilter {
  if (!(roughness > LEAST_JOINED)) return { isWide: false, widening: 1, joinedPixels: 1 };
  const sure = Math.min(1, Math.log(roughness / LEAST_JOINED) / Math.log(SURELY_JOINED / LEAST_JOINED));
  return { isWide: sure > 0.5, widening: shareOf(roughness, 'highPassed') ** -sure, joinedPixels: shareOf(roughness, 'left') ** -sure };
}

/** Whether noise is smoother than texture may be. */
export const isSmootherThanTexture = (roughness: number): boolean => roughness > AS_TEXTURE;

/** What is believed of a roughness where texture is not known: what might be texture is not taken for a filter. */
export const unlessTexture = (roughness: number): number => (isSmootherThanTexture(roughness) ? roughness : Math.min(1, roughness));

/**
 * What a low quantile over tiles of what features leave says of all of them. It is below what they have, the more so the
 * fewer pixels are independent: found with filters that are known.
 */
export const fromFeatures = (quantile: number, tiles: number): number => unlessChance(1.03 * quantile ** 1.02, tiles);

/** Likewise of what neighbours leave. */
export const fromNeighbours = (quantile: number, tiles: number): number => unlessChance(quantile / 0.9, tiles);

const unlessChance = (roughness: number, tiles: number) => (roughness < LEAST_JOINED + OF_FEW_TILES / Math.sqrt(tiles) ? Math.min(1, roughness) : roughness);

/** Between the table's entries in straight lines of logarithms, and beyond its end. */
function shareOf(roughness: number, which: 'highPassed' | 'left'): number {
  const after = TABLE.findIndex((entry) => entry.roughness >= roughness);
  const end = after < 0 ? TABLE.length - 1 : Math.max(1, after);
  const [from, to] = [TABLE[end - 1]!, TABLE[end]!];
  const slope = Math.log(to[which] / from[which]) / Math.log(to.roughness / from.roughness);
  return from[which] * (Math.min(roughness, WIDEST) / from.roughness) ** slope;
}
