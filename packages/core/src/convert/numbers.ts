import { floatOfHalf, type Plane } from '../formats/index.ts';
import { decodeSRgb, encodeSRgb } from '../view/index.ts';
import type { Recipe } from '../mend/index.ts';

/** How a channel's numbers are kept: whole ones over their full scale, light, or whole ones that are names. */
export type NumberKind = 'code' | 'light' | 'id';

export const kindOf = ({ type }: Pick<Plane, 'type'>): NumberKind => (type === 'u8' || type === 'u16' ? 'code' : type === 'uint' ? 'id' : 'light');

/** Light and codes fit floats; whole numbers of 32 bits do not. */
export type Numbers = Float32Array | Float64Array;

/** A plane's numbers: codes as 0..1, light and ids as they are. Floats are given as they stand in the file, not to be changed. */
export function numbersOf({ type, data, offset, stride, width, height }: Plane): Numbers {
  const count = width * height;
  if (type === 'float' && stride === 1) return (data as Float32Array).subarray(offset, offset + count);
  const out = type === 'uint' ? new Float64Array(count) : new Float32Array(count);
  if (type === 'half') for (let i = 0, at = offset; i < count; i++, at += stride) out[i] = floatOfHalf[data[at]!]!;
  else {
    const scale = type === 'u8' ? 255 : type === 'u16' ? 65535 : 1;
    for (let i = 0, at = offset; i < count; i++, at += stride) out[i] = data[at]! / scale;
  }
  return out;
}

/** What a monitor of Rec. 709 makes of a number (ITU-R BT.1886), as View does. */
const MONITOR = 2.4;

/** Light as a code of 0..1, by the recipe's curve; above 1 where there is more light than codes can say. */
export function encodeLight(light: number, curve: Recipe['curve']): number {
  if (curve === 'linear') return light;
  if (curve === 'rec709') return light <= 0 ? light : light ** (1 / MONITOR);
  // Beyond 1 the curve goes on, so that it can be told by how much something was too bright.
  return light <= 0 ? light : light <= 1 ? encodeSRgb(light) : 1.055 * light ** (1 / 2.4) - 0.055;
}

/** Light of a code of 0..1. */
export function decodeCode(code: number, curve: Recipe['curve']): number {
  if (curve === 'linear') return code;
  return curve === 'rec709' ? code ** MONITOR : decodeSRgb(code);
}
