/** Four evenly spread numbers have this share of a deviation of 1. */
const TO_ONE = Math.sqrt(3);

/**
 * Noise around 0 with a deviation of 1, the same of the same seed: sums of four evenly spread numbers, which are nearly
 * normal. What a filter makes of it tells how much of a picture's noise it leaves.
 */
export function knownNoise(count: number, seed: number): Float32Array {
  const out = new Float32Array(count);
  let state = Math.imul(seed + 1, 0x9e3779b9) >>> 0;
  const even = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
  for (let i = 0; i < count; i++) out[i] = (even() + even() + even() + even() - 2) * TO_ONE;
  return out;
}
