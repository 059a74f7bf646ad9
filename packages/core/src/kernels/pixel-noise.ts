import { eachPixel } from './pixel-by-pixel.ts';

/** What is known of the noise of a picture's pixels, plane by plane. */
export interface ToldNoise {
  readonly luminance: Float32Array;
  /** Grey; darker than `least` counts as that. */
  readonly albedo: Float32Array;
  readonly least: number;
  /** Squares of what surfaces do not explain, and what makes them variances. */
  readonly squares: Float32Array;
  readonly scales: Float32Array;
  /** Variances of the tiles, and how much they count beside those, from 0 to 1. */
  readonly tiles: Float32Array;
  readonly ofTile: number;
}

/** Light without its texture, that texture, and the standard deviation of each pixel's luminance. */
export function lightAndNoise({ luminance, albedo, least, squares, scales, tiles, ofTile }: ToldNoise) {
  const [light, texture, deviation] = [new Float32Array(luminance.length), new Float32Array(luminance.length), new Float32Array(luminance.length)];
  eachPixel(
    { given: [luminance, albedo, squares, scales, tiles], filled: [light, texture, deviation] },
    (exports, [ofLuminance, ofAlbedo, ofSquares, ofScales, ofTiles, ...out], count) =>
      exports.tellNoise(ofLuminance!, ofAlbedo!, ofSquares!, ofScales!, ofTiles!, ofTile, least, count, out[0]!, out[1]!, out[2]!),
  );
  return { light, texture, deviation };
}

/**
 * How far a pixel's light can be trusted: one over twice its variance.
 *
 * @param least variance that is never undercut: of the light's square
 * @param known noise with a deviation of 1: it becomes as large as the picture's
 */
export function trustInLight(light: Float32Array, texture: Float32Array, deviation: Float32Array, least: number, known: Float32Array): Float32Array {
  const trust = new Float32Array(light.length);
  eachPixel({ given: [light, texture, deviation], changed: [known], filled: [trust] }, (exports, [ofLight, ofTexture, ofDeviation, ofKnown, out], count) =>
    exports.tellTrust(ofLight!, ofTexture!, ofDeviation!, least, ofKnown!, count, out!),
  );
  return trust;
}
