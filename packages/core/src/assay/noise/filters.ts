import { highPassed } from '../../kernels/index.ts';

/**
 * The high-pass K = [1 -2 1] x [1 -2 1] / 6, which leaves white noise as strong as it was (Immerkaer 1996). The frame's
 * outermost ring of pixels is zero.
 */
export const highPass = highPassed;

/** Mean over the (2r+1) x (2r+1) pixels around each; at the borders over those that are there. */
export function boxMean(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  const across = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) meanAlong(plane, across, y * width, width, radius);
  const out = new Float32Array(plane.length);
  // Down by sums of whole lines, so that memory is read in its order.
  const sums = new Float64Array(width);
  const add = (line: number, sign: 1 | -1) => {
    for (let x = 0, i = line * width; x < width; x++, i++) sums[x] = sums[x]! + sign * across[i]!;
  };
  let lines = 0;
  for (let y = 0; y < Math.min(height, radius); y++, lines++) add(y, 1);
  for (let y = 0; y < height; y++) {
    if (y + radius < height) {
      add(y + radius, 1);
      lines++;
    }
    if (y - radius > 0) {
      add(y - radius - 1, -1);
      lines--;
    }
    const share = 1 / lines;
    for (let x = 0, i = y * width; x < width; x++, i++) out[i] = sums[x]! * share;
  }
  return out;
}

/** The largest value of each pixel's 3 x 3. */
export function largestAround(plane: Float32Array, width: number, height: number): Float32Array {
  const across = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) {
    const [first, last] = [y * width, (y + 1) * width - 1];
    for (let i = first; i <= last; i++) {
      let most = plane[i]!;
      if (i > first && plane[i - 1]! > most) most = plane[i - 1]!;
      if (i < last && plane[i + 1]! > most) most = plane[i + 1]!;
      across[i] = most;
    }
  }
  const out = new Float32Array(plane.length);
  for (let i = 0; i < out.length; i++) {
    let most = across[i]!;
    if (i >= width && across[i - width]! > most) most = across[i - width]!;
    if (i + width < out.length && across[i + width]! > most) most = across[i + width]!;
    out[i] = most;
  }
  return out;
}

/** Values where a mask is set, zero elsewhere. */
export function masked(values: Float32Array, mask: Uint8Array): Float32Array {
  const out = new Float32Array(values.length);
  for (let i = 0; i < out.length; i++) if (mask[i] !== 0) out[i] = values[i]!;
  return out;
}

/** 1 where all of a pixel's 3 x 3 is set; never on the outermost ring, whose neighbours are not there. */
export function whole3x3(mask: Uint8Array, width: number, height: number): Uint8Array {
  const out = new Uint8Array(mask.length);
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      out[i] =
        mask[i - width - 1]! &
        mask[i - width]! &
        mask[i - width + 1]! &
        mask[i - 1]! &
        mask[i]! &
        mask[i + 1]! &
        mask[i + width - 1]! &
        mask[i + width]! &
        mask[i + width + 1]!;
    }
  }
  return out;
}

function meanAlong(from: Float32Array, to: Float32Array, start: number, count: number, radius: number): void {
  let [sum, pixels] = [0, 0];
  for (let i = 0; i < Math.min(count, radius); i++, pixels++) sum += from[start + i]!;
  for (let i = 0; i < count; i++) {
    if (i + radius < count) {
      sum += from[start + i + radius]!;
      pixels++;
    }
    if (i - radius > 0) {
      sum -= from[start + i - radius - 1]!;
      pixels--;
    }
    to[start + i] = sum / pixels;
  }
}
