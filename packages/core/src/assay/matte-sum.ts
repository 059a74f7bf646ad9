/** Mattes are means over a pixel, kept as halves or bytes. */
const TOLERANCE = 0.02;

/**
 * Share of a frame's pixels in which its mattes do not sum to the alpha.
 *
 * @param mattes all components of all of them, of one size
 * @param alpha of the beauty; null where all of it is covered
 * @returns null where there are none
 */
export function matteGap(mattes: readonly Float32Array[], alpha: Float32Array | null): number | null {
  const [first] = mattes;
  if (!first || first.length === 0) return null;
  let off = 0;
  for (let i = 0; i < first.length; i++) {
    let sum = 0;
    for (const matte of mattes) sum += matte[i]!;
    if (!(Math.abs(sum - (alpha ? alpha[i]! : 1)) <= TOLERANCE)) off++;
  }
  return off / first.length;
}
