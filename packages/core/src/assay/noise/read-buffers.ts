import type { DecodedFrame } from '../../formats/index.ts';
import { componentsOf, movedTo, numbersOfPlane, placeOf, type Components } from '../components.ts';
import { luminanceOf } from '../luminance.ts';
import { FARTHEST, type NoiseBuffers } from './buffers.ts';
import { toPixels, type Convention } from './convention.ts';

/** A pass's decoded file, and its own channels where the brief names them. */
export interface PassFrame {
  readonly frame: DecodedFrame;
  readonly channels: readonly string[] | null;
}

/** The passes of one frame that noise is measured with. */
export interface FramePasses {
  readonly colour: PassFrame;
  readonly albedo: PassFrame | null;
  readonly normal: PassFrame | null;
  readonly depth: PassFrame | null;
  readonly motion: PassFrame | null;
}

/**
 * Puts the passes of a frame beside each other, in the colour's window. A pass of another size is left out: it says
 * nothing of this picture's pixels.
 *
 * @returns null when the colour pass has no colours
 */
export function readBuffers({ colour, albedo, normal, depth, motion }: FramePasses, convention: Convention): NoiseBuffers | null {
  const luminance = luminanceOf(colour.frame, colour.channels);
  if (!luminance) return null;
  const { width, height } = luminance;
  const window = { width, height, ...placeOf(colour.frame) };
  const fits = (pass: PassFrame | null, count: number) => componentsBeside(colour.frame, pass, count);
  const [ofAlbedo, ofNormal, ofDepth, ofMotion] = [fits(albedo, 1), fits(normal, 3), fits(depth, 1), fits(asVectors(motion), 2)];
  const moved = (from: Components, c: number, outside = 0) => movedTo(from, from.values[c]!, window, outside);
  return {
    width,
    height,
    luminance: luminance.values,
    alpha: alphaOf(colour),
    albedo: ofAlbedo && (luminanceIn(albedo!, ofAlbedo, window) ?? moved(ofAlbedo, 0)),
    normal: ofNormal && [moved(ofNormal, 0), moved(ofNormal, 1), moved(ofNormal, 2)],
    depth: ofDepth && moved(ofDepth, 0, 10 * FARTHEST),
    motion: ofMotion && toPixels([moved(ofMotion, 0), moved(ofMotion, 1)], convention, colour.frame.header),
  };
}

/** What a pass holds beside a picture; null where it is of another size, or has fewer components. */
export function componentsBeside({ header }: DecodedFrame, pass: PassFrame | null, count: number): Components | null {
  if (!pass || pass.frame.header.width !== header.width || pass.frame.header.height !== header.height) return null;
  const components = componentsOf(pass.frame, pass.channels);
  return components && components.count >= count ? components : null;
}

/** Vectors in integers were packed by a rule that nobody told us: they say nothing. */
export function asVectors(motion: PassFrame | null): PassFrame | null {
  return motion?.frame.planes.every(({ type }) => type === 'half' || type === 'float') ? motion : null;
}

function luminanceIn(pass: PassFrame, from: Components, window: { width: number; height: number; left: number; top: number }): Float32Array | null {
  const luminance = luminanceOf(pass.frame, pass.channels);
  return luminance && movedTo(from, luminance.values, window);
}

/** The alpha beside the colours; null where there is none. */
export function alphaOf({ frame, channels }: PassFrame): Float32Array | null {
  const isAlpha = (name: string) => /(^|\.)(a|alpha)$/i.test(name);
  const plane = frame.planes.find(({ channel }) => isAlpha(channel) && (channels === null || channels.includes(channel)));
  return plane ? numbersOfPlane(plane) : null;
}

/** A motion pass's vectors as the file has them, in the colour's window. */
export function readVectors(colour: PassFrame, motion: PassFrame): readonly [Float32Array, Float32Array] | null {
  const vectors = asVectors(motion);
  const components = vectors && componentsOf(vectors.frame, vectors.channels);
  const luminance = luminanceOf(colour.frame, colour.channels);
  if (!components || !luminance || components.count < 2) return null;
  const window = { width: luminance.width, height: luminance.height, ...placeOf(colour.frame) };
  return [movedTo(components, components.values[0]!, window), movedTo(components, components.values[1]!, window)];
}
