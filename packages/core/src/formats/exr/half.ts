/**
 * Half floats (IEEE 754 binary16). Decoding goes through a table of all 65,536 values, encoding
 * rounds to the nearest, ties to even.
 */

/** The value of each half by its 16 bits. */
export const floatOfHalf = makeTable();

/** Put together from bits: with a power per value it would take a tenth of the time that a check of one frame takes. */
function makeTable(): Float32Array {
  const table = new Float32Array(65536);
  const bits = new Uint32Array(table.buffer);
  for (let magnitude = 0; magnitude < 0x8000; magnitude++) {
    // Below the smallest normal half the value is a multiple of 2^-24; infinite and not a number stay what they are.
    if (magnitude < 0x400) table[magnitude] = magnitude * 2 ** -24;
    else if (magnitude <= 0x7c00) bits[magnitude] = magnitude < 0x7c00 ? (magnitude << 13) + (112 << 23) : 0x7f800000;
    else bits[magnitude] = 0x7fc00000;
    bits[magnitude + 0x8000] = (bits[magnitude]! | 0x80000000) >>> 0;
  }
  return table;
}

/** The value of a half's 16 bits. */
export function halfToFloat(bits: number): number {
  return floatOfHalf[bits]!;
}

/** Adds the values of every `stride`-th half from `offset` on, times a weight, to numbers that are there. */
export function addHalves(halves: Uint16Array, offset: number, stride: number, weight: number, out: Float32Array): void {
  // By a name of its own: what stands outside of a function is asked for anew at each turn.
  const table = floatOfHalf;
  for (let i = 0, at = offset; i < out.length; i++, at += stride) out[i] = out[i]! + weight * table[halves[at]!]!;
}

const scratch = new Float32Array(1);
const scratchBits = new Uint32Array(scratch.buffer);

/** The 16 bits of the half nearest to a value; beyond 65504 it becomes infinite. */
export function floatToHalf(value: number): number {
  scratch[0] = value;
  const bits = scratchBits[0];
  const sign = (bits >>> 16) & 0x8000;
  const exponent = (bits >>> 23) & 0xff;
  const fraction = bits & 0x7fffff;
  if (exponent === 0xff) return sign | 0x7c00 | (fraction !== 0 ? 0x200 : 0);
  const unbiased = exponent - 127;
  if (unbiased > 15) return sign | 0x7c00;
  if (unbiased < -25) return sign;
  // Normal halves keep 10 bits of the fraction; below 2^-14 ever fewer, with the hidden one shown.
  const shift = unbiased < -14 ? -unbiased - 1 : 13;
  const full = unbiased < -14 ? fraction | 0x800000 : ((unbiased + 15) << 23) | fraction;
  const kept = full >>> shift;
  const halfway = 1 << (shift - 1);
  const rest = full & ((halfway << 1) - 1);
  const roundUp = rest > halfway || (rest === halfway && (kept & 1) === 1);
  return sign | (kept + (roundUp ? 1 : 0));
}
