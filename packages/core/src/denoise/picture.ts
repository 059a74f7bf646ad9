import {
  alphaOf,
  asVectors,
  componentsBeside,
  FARTHEST,
  filledIn,
  movedTo,
  numbersOf,
  numbersOfPlane,
  placeOf,
  toPixels,
  type Components,
  type Convention,
  type FramePasses,
  type PassFrame,
} from '../assay/index.ts';
import type { DecodedFrame } from '../formats/index.ts';
import { areNumbers } from '../kernels/index.ts';
import { planesNamed } from '../view/index.ts';
import { greyOf } from './grey.ts';

/** The colours of a pass: planes row by row, of one size. */
export interface ColoursToDenoise {
  readonly width: number;
  readonly height: number;
  /** The channels that are filtered: red, green and blue, or one of grey; scene-linear. What is no number has the mean of what is around. */
  readonly channels: readonly string[];
  readonly colours: readonly Float32Array[];
  /** 1 where a colour of the file is no number, or infinite: it stays as it is, and nothing is learnt from it; null where all are. */
  readonly holes: Uint8Array | null;
}

/** A picture to take the noise out of, with what is known of its surfaces. */
export interface PictureToDenoise extends ColoursToDenoise {
  readonly luminance: Float32Array;
  /** Null where the file has none. */
  readonly alpha: Float32Array | null;
  /** Null where there is no such pass, or it is of another size. */
  readonly albedo: readonly Float32Array[] | null;
  readonly normal: readonly Float32Array[] | null;
  readonly depth: Float32Array | null;
  /** In pixels, right and down, to where a point was a frame before. */
  readonly motion: readonly [Float32Array, Float32Array] | null;
}

/** The colours of a pass. @returns null where it has none */
function coloursToDenoise({ frame, channels }: PassFrame): ColoursToDenoise | null {
  const own = frame.planes.filter(({ channel }) => channels === null || channels.includes(channel));
  const planes = planesNamed(own, 'RGB', channels !== null) ?? planesNamed(own, 'Y', channels !== null);
  if (!planes) return null;
  const { width, height } = planes[0]!;
  if (planes.some((plane) => plane.width !== width || plane.height !== height)) return null;
  const raw = planes.map(numbersOfPlane);
  const holes = holesOf(raw);
  return { width, height, channels: planes.map(({ channel }) => channel), colours: holes ? raw.map((plane) => filledIn(plane, width, height)) : raw, holes };
}

/**
 * The colours of a light that goes along with a picture.
 *
 * @param frame that the picture is of
 * @returns null where it has none, or they lie in another window
 */
export function lightToDenoise(light: PassFrame, { width, height }: ColoursToDenoise, frame: DecodedFrame): ColoursToDenoise | null {
  const own = coloursToDenoise(light);
  const [place, other] = [placeOf(light.frame), placeOf(frame)];
  return own?.width === width && own.height === height && place.left === other.left && place.top === other.top ? own : null;
}

/** Puts a colour pass and those that help beside each other, in its window. @returns null where it has no colours */
export function pictureToDenoise({ colour, albedo, normal, depth, motion }: FramePasses, convention: Convention): PictureToDenoise | null {
  const own = coloursToDenoise(colour);
  if (!own) return null;
  const { frame } = colour;
  const { width, height, colours } = own;
  const window = { width, height, ...placeOf(frame) };
  const fits = (pass: PassFrame | null, count: number) => componentsBeside(frame, pass, count);
  const numbers = (from: Components, c: number, outside = 0) => numbersOf(movedTo(from, from.values[c]!, window, outside));
  const [ofAlbedo, ofNormal, ofDepth, ofMotion] = [fits(albedo, 1), fits(normal, 3), fits(depth, 1), fits(asVectors(motion), 2)];
  const components = (from: Components | null, count: number) => from && Array.from({ length: count }, (_, c) => numbers(from, c));
  return {
    ...own,
    luminance: greyOf(colours),
    alpha: alphaOf(colour),
    albedo: components(ofAlbedo, ofAlbedo && ofAlbedo.values.length >= 3 ? 3 : 1),
    normal: components(ofNormal, 3),
    depth: ofDepth && movedTo(ofDepth, ofDepth.values[0]!, window, 10 * FARTHEST),
    motion: ofMotion && toPixels([movedTo(ofMotion, ofMotion.values[0]!, window), movedTo(ofMotion, ofMotion.values[1]!, window)], convention, frame.header),
  };
}

function holesOf(planes: readonly Float32Array[]): Uint8Array | null {
  let holes: Uint8Array | null = null;
  for (const plane of planes) {
    if (areNumbers(plane)) continue;
    holes ??= new Uint8Array(plane.length);
    for (let i = 0; i < plane.length; i++) if (!Number.isFinite(plane[i])) holes[i] = 1;
  }
  return holes;
}
