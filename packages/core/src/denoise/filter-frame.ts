import { FARTHEST } from '../assay/index.ts';
import { boxMean, filterPicture, trustInLight, type FilterFeature } from '../kernels/index.ts';
import { greyOf } from './grey.ts';
import { knownNoise } from './known-noise.ts';
import { noiseOfPixels } from './noise-of-pixels.ts';
import type { PictureToDenoise } from './picture.ts';

/** What differences of patches are multiplied with at strength 1, and what those of the features count beside them. */
const SHARPNESS = 1.6;
const ALBEDO = 5;
const NORMAL = 10;
const NEAR = 2;
const ALPHA = 5;
/** The nearest point has this nearness. */
const NEAREST = 4;
/** Variance that is never undercut: of the light's square. */
const LEAST_VARIANCE = 1e-8;

/** What is left of the noise is told by so many pixels around. */
const LEFT_AROUND = 4;

/** Colours of a light that goes along with a picture, of its size; null of one that is not there. */
export type LightPlanes = readonly Float32Array[] | null;

/** A frame whose noise has been filtered by itself. */
export interface FilteredFrame {
  readonly colours: readonly Float32Array[];
  /** Likewise of what goes along with it. */
  readonly lights: readonly LightPlanes[];
  /** What the filter leaves of white noise as large as the picture's, in luminance. */
  readonly left: Float32Array;
  /** Means of its squares around each pixel: what it may differ by from other frames. */
  readonly leftAround: Float32Array;
  /** Standard deviation of each pixel's luminance before. */
  readonly deviation: Float32Array;
  /** Places of single pixels that stood far above all around them; they are like those around now. */
  readonly fireflies: readonly number[];
}

/**
 * Takes noise out of a frame by what is around: a first-order regression on its features with non-local weights.
 *
 * @param sigmas noise of its tiles: see `noiseOfPixels`
 * @param strength 1 is middle; less leaves more noise, and more of what is taken for it
 * @param seed of the noise that tells what is left
 * @param lights what goes along with it, by the very same weights: whatever sums to the picture does so afterwards
 */
export function filterFrame(
  picture: PictureToDenoise,
  sigmas: Float64Array,
  strength: number,
  seed: number,
  lights: readonly LightPlanes[] = [],
): FilteredFrame {
  const { width, height } = picture;
  const count = width * height;
  const { fireflies, texture, deviation, light } = noiseOfPixels(picture, sigmas);
  const alike = picture.colours.map((plane) => neighboursLike(plane, width, fireflies));
  const without = (planes: readonly Float32Array[]) =>
    fireflies.length > 0 ? planes.map((plane, c) => likeAround(plane, fireflies, alike[Math.min(c, alike.length - 1)]!)) : planes;
  const colours = without(picture.colours);
  const along = lights.map((light) => light && without(light));
  const guide = light.slice();
  const greys = greyOf(colours.map((plane) => Float32Array.from(fireflies, (i) => plane[i]!)));
  fireflies.forEach((i, k) => (guide[i] = greys[k]! / texture[i]!));
  const known = knownNoise(count, seed);
  const trust = trustInLight(guide, texture, deviation, LEAST_VARIANCE, known);
  const mask = believedPixels(picture);
  const given = [...colours, known, ...along.flatMap((light) => light ?? [])];
  const filtered = filterPicture({ width, height, guide, trust, mask, features: featuresOf(picture), colours: given, sharpness: SHARPNESS / strength });
  const left = filtered[colours.length]!;
  for (let i = 0; i < count; i++) {
    if (mask[i] !== 0) continue;
    filtered.forEach((plane, c) => (plane[i] = given[c]![i]!));
    left[i] = 0;
  }
  const rest = filtered.splice(colours.length).slice(1);
  return {
    colours: filtered,
    lights: along.map((light) => light && rest.splice(0, light.length)),
    left,
    leftAround: boxMean(squaresOf(left), width, height, LEFT_AROUND),
    deviation,
    fireflies,
  };
}

/** Where nothing is covered there is nothing to learn, and what is no number says nothing: 0. */
function believedPixels({ width, height, holes, alpha }: PictureToDenoise): Float32Array {
  const mask = new Float32Array(width * height).fill(1);
  if (alpha) for (let i = 0; i < mask.length; i++) if (!(alpha[i]! > 0)) mask[i] = 0;
  if (holes) for (let i = 0; i < mask.length; i++) if (holes[i] !== 0) mask[i] = 0;
  return mask;
}

function squaresOf(values: Float32Array): Float32Array {
  const squares = new Float32Array(values.length);
  for (let i = 0; i < squares.length; i++) squares[i] = values[i]! * values[i]!;
  return squares;
}

/** What the colours are regressed on. What is the same everywhere explains nothing. */
function featuresOf({ albedo, normal, depth, alpha }: PictureToDenoise): FilterFeature[] {
  const features = (planes: readonly Float32Array[] | null, scale: number) => (planes ?? []).map((values) => ({ values, scale }));
  return [...features(albedo, ALBEDO), ...features(normal, NORMAL), ...features(depth && [nearness(depth)], NEAR), ...features(alpha && [alpha], ALPHA)].filter(
    ({ values }) => !isSameEverywhere(values),
  );
}

function isSameEverywhere(values: Float32Array): boolean {
  let i = 1;
  while (i < values.length && values[i] === values[0]) i++;
  return i >= values.length;
}

/** The inverse of depth, 0 where nothing is met. */
function nearness(depth: Float32Array): Float32Array {
  const near = new Float32Array(depth.length);
  let nearest = FARTHEST;
  for (let i = 0; i < near.length; i++) if (depth[i]! > 0 && depth[i]! < nearest) nearest = depth[i]!;
  for (let i = 0; i < near.length; i++) if (depth[i]! > 0 && depth[i]! < FARTHEST) near[i] = (NEAREST * nearest) / depth[i]!;
  return near;
}

/** Of the eight pixels around each place, none of which lies on the outermost ring, the two in the middle of a plane's order. */
function neighboursLike(plane: Float32Array, width: number, places: readonly number[]): (readonly [number, number])[] {
  return places.map((place) => {
    const around = [-width - 1, -width, -width + 1, -1, 1, width - 1, width, width + 1].map((step) => place + step).sort((a, b) => plane[a]! - plane[b]!);
    return [around[3]!, around[4]!];
  });
}

/** A plane with the mean of two others for some of its pixels. */
function likeAround(plane: Float32Array, places: readonly number[], others: readonly (readonly [number, number])[]): Float32Array {
  const out = plane.slice();
  places.forEach((place, k) => {
    const [a, b] = others[k]!;
    out[place] = (plane[a]! + plane[b]!) / 2;
  });
  return out;
}
