import { planesNamed } from '../view/index.ts';
import type { DecodedFrame } from '../formats/index.ts';
import { mixPlanes } from './components.ts';

/** A frame's luminance, row by row: scene-linear of floats, 0..1 of integers. NaN where the file has none. */
export interface Luminance {
  readonly width: number;
  readonly height: number;
  readonly values: Float32Array;
}

/** ITU-R BT.709, section 3.2: the weights of red, green and blue. */
export const LUMINANCE_WEIGHTS = [0.2126, 0.7152, 0.0722] as const;

/**
 * Luminance of a colour pass.
 *
 * @param channels the pass's own channels where it shares its file with others
 * @returns null when the frame has neither red, green and blue nor a grey channel
 */
export function luminanceOf(frame: DecodedFrame, channels: readonly string[] | null = null): Luminance | null {
  const own = frame.planes.filter((plane) => channels === null || channels.includes(plane.channel));
  const inLayers = channels !== null;
  const planes = planesNamed(own, 'RGB', inLayers) ?? planesNamed(own, 'Y', inLayers);
  if (!planes) return null;
  const { width, height } = planes[0]!;
  if (planes.some((plane) => plane.width !== width || plane.height !== height)) return null;
  return { width, height, values: mixPlanes(planes, planes.length === 1 ? [1] : LUMINANCE_WEIGHTS) };
}
