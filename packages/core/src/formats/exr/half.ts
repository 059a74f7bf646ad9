/**
 * Half floats (IEEE 754 binary16). Decoding goes through a table of all 65,536 values, encoding
 * rounds to the nearest, ties to even.
 */
const floatOfHalf = makeTable();

function makeTable(): Float32Array {
  const table = new Float32Array(65536);
  for (let bits = 0; bits < 65536; bits++) {
    const sign = bits & 0x8000 ? -1 : 1;
    const exponent = (bits >> 10) & 0x1f;
    const fraction = bits & 0x3ff;
    if (exponent === 0) table[bits] = sign * fraction * 2 ** -24;
    else if (exponent === 31) table[bits] = fraction === 0 ? sign * Infinity : NaN;
    else table[bits] = sign * (1 + fraction / 1024) * 2 ** (exponent - 15);
  }
  return table;
}

/** The value of a half's 16 bits. */
export function halfToFloat(bits: number): number {
  return floatOfHalf[bits]!;
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
