/**
 * The high-pass K = [1 -2 1] x [1 -2 1] / 6, which leaves white noise as strong as it was (Immerkaer 1996). The frame's
 * outermost ring of pixels stays zero.
 */
export function highPass(plane: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(plane.length);
  const rows = new Float32Array(plane.length);
  for (let y = 1; y < height - 1; y++) {
    const at = y * width;
    for (let x = 0; x < width; x++) rows[at + x] = plane[at - width + x]! - 2 * plane[at + x]! + plane[at + width + x]!;
    for (let x = 1; x < width - 1; x++) out[at + x] = (rows[at + x - 1]! - 2 * rows[at + x]! + rows[at + x + 1]!) / 6;
  }
  return out;
}

/** The autocorrelation of the high-pass: what independent noise looks like beside itself once it went through. */
export function correlate(plane: Float32Array, width: number, height: number): Float32Array {
  return separable(plane, width, height, [1, -4, 6, -4, 1], 36);
}

/** The Laplacian [0 -1 0; -1 4 -1; 0 -1 0] / sqrt 20: rougher noise passes it as the high-pass, smoother less so. */
export function laplacian(plane: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(plane.length);
  const scale = 1 / Math.sqrt(20);
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      out[i] = (4 * plane[i]! - plane[i - 1]! - plane[i + 1]! - plane[i - width]! - plane[i + width]!) * scale;
    }
  }
  return out;
}

/** Mean over the (2r+1) x (2r+1) pixels around each; at the borders over those that are there. */
export function boxMean(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  const across = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) meanAlong(plane, across, y * width, 1, width, radius);
  const out = new Float32Array(plane.length);
  for (let x = 0; x < width; x++) meanAlong(across, out, x, width, height, radius);
  return out;
}

/** The largest value of each pixel's 3 x 3. */
export function largestAround(plane: Float32Array, width: number, height: number): Float32Array {
  const across = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      across[i] = Math.max(plane[i]!, x > 0 ? plane[i - 1]! : -Infinity, x < width - 1 ? plane[i + 1]! : -Infinity);
    }
  }
  return Float32Array.from(across, (value, i) => Math.max(value, across[i - width] ?? -Infinity, across[i + width] ?? -Infinity));
}

/** 1 where all of a pixel's 3 x 3 is set; never on the outermost ring, whose neighbours are not there. */
export function whole3x3(mask: Uint8Array, width: number, height: number): Uint8Array {
  const out = new Uint8Array(mask.length);
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const column = (at: number) => mask[at - width]! & mask[at]! & mask[at + width]!;
      out[i] = column(i - 1) & column(i) & column(i + 1);
    }
  }
  return out;
}

function meanAlong(from: Float32Array, to: Float32Array, start: number, step: number, count: number, radius: number): void {
  let [sum, pixels] = [0, 0];
  for (let i = 0; i < Math.min(count, radius); i++, pixels++) sum += from[start + i * step]!;
  for (let i = 0; i < count; i++) {
    if (i + radius < count) {
      sum += from[start + (i + radius) * step]!;
      pixels++;
    }
    if (i - radius > 0) {
      sum -= from[start + (i - radius - 1) * step]!;
      pixels--;
    }
    to[start + i * step] = sum / pixels;
  }
}

/** A symmetric filter of five entries both ways; beyond the picture stands zero. */
function separable(plane: Float32Array, width: number, height: number, [far, near, middle]: readonly number[], divisor: number): Float32Array {
  const across = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) {
    const at = y * width;
    for (let x = 0; x < width; x++) {
      const i = at + x;
      let sum = middle! * plane[i]!;
      if (x > 0) sum += near! * plane[i - 1]!;
      if (x < width - 1) sum += near! * plane[i + 1]!;
      if (x > 1) sum += far! * plane[i - 2]!;
      if (x < width - 2) sum += far! * plane[i + 2]!;
      across[i] = sum;
    }
  }
  const out = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      let sum = middle! * across[i]!;
      if (y > 0) sum += near! * across[i - width]!;
      if (y < height - 1) sum += near! * across[i + width]!;
      if (y > 1) sum += far! * across[i - 2 * width]!;
      if (y < height - 2) sum += far! * across[i + 2 * width]!;
      out[i] = sum / divisor;
    }
  }
  return out;
}
