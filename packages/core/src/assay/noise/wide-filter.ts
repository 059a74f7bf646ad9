/** Above this roughness the pixel filter is wide. */
const WIDE = 1.4;
/**
 * By the roughness of noise of spectrum exp(-s^2 |w|^2), s .2 to .7: how much of its variance the high pass leaves, and how
 * much of it there is at all beside what there was before it was filtered (the square of the mean of exp(-s^2 w^2) over w
 * from -pi to pi).
 */
const TABLE = [
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
  if (!(roughness > WIDE)) return { isWide: false, widening: 1, joinedPixels: 1 };
  return { isWide: true, widening: 1 / shareOf(roughness, 'highPassed'), joinedPixels: 1 / shareOf(roughness, 'left') };
}

/** Between the table's entries in straight lines of logarithms, and beyond its end. */
function shareOf(roughness: number, which: 'highPassed' | 'left'): number {
  const after = TABLE.findIndex((entry) => entry.roughness >= roughness);
  const end = after < 0 ? TABLE.length - 1 : Math.max(1, after);
  const [from, to] = [TABLE[end - 1]!, TABLE[end]!];
  const slope = Math.log(to[which] / from[which]) / Math.log(to.roughness / from.roughness);
  return from[which] * (Math.min(roughness, WIDEST) / from.roughness) ** slope;
}
