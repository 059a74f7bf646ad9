import { PackedDataError } from '../../errors.ts';
import { ZIGZAG } from '../../zigzag.ts';
import { halfToFloat } from '../half.ts';

/** BASIS[u * 8 + x] of the orthonormal cosine transform. */
const BASIS = Float64Array.from({ length: 64 }, (_, i) => {
  const [u, x] = [i >> 3, i & 7];
  return (u === 0 ? Math.SQRT1_2 : 1) * 0.5 * Math.cos(((2 * x + 1) * u * Math.PI) / 16);
});

const scratch = new Float64Array(64);

/** Inverse of the orthonormal 8 x 8 cosine transform, in place; rows of zeros cost nothing. */
export function inverseCosine(block: Float64Array): void {
  for (let v = 0; v < 8; v++) {
    const row = v * 8;
    for (let x = 0; x < 8; x++) scratch[row + x] = 0;
    for (let u = 0; u < 8; u++) {
      const value = block[row + u];
      if (value === 0) continue;
      for (let x = 0; x < 8; x++) scratch[row + x] += value * BASIS[u * 8 + x];
    }
  }
  for (let x = 0; x < 8; x++) {
    for (let y = 0; y < 8; y++) {
      let sum = 0;
      for (let v = 0; v < 8; v++) sum += scratch[v * 8 + x] * BASIS[v * 8 + y];
      block[y * 8 + x] = sum;
    }
  }
}

/** Reads one block's coefficients: halves in zigzag order, with runs of zeros counted. Gives the next place in `codes`. */
export function readCoefficients(block: Float64Array, lowest: number, codes: Uint16Array, from: number): number {
  block.fill(0);
  block[0] = halfToFloat(lowest);
  let at = from;
  for (let k = 1; k < 64;) {
    if (at >= codes.length) throw new PackedDataError('its coefficients end too early');
    const code = codes[at++];
    if (code === 0xff00) break;
    if (code >> 8 === 0xff) k += code & 0xff;
    else block[ZIGZAG[k++]] = halfToFloat(code);
  }
  return at;
}
