import { halfToFloat, type Plane } from '../formats/index.ts';
import { decodeSRgb, encodeSRgb } from '../view/index.ts';
import type { Recipe } from '../mend/index.ts';

/** How a channel's numbers are kept: whole ones over their full scale, light, or whole ones that are names. */
export type NumberKind = 'code' | 'light' | 'id';

export const kindOf = ({ type }: Pick<Plane, 'type'>): NumberKind => (type === 'u8' || type === 'u16' ? 'code' : type === 'uint' ? 'id' : 'light');

/** A plane's numbers: codes as 0..1, light and ids as they are. */
export function numbersOf({ type, data, offset, stride, width, height }: Plane): Float64Array {
  const scale = type === 'u8' ? 255 : type === 'u16' ? 65535 : 1;
  return Float64Array.from({ length: width * height }, (_, i) => {
    const stored = data[offset + i * stride]!;
    return type === 'half' ? halfToFloat(stored) : stored / scale;
  });
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
