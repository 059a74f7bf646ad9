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
