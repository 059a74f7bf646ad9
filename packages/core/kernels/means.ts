// Means over what is around.

/** Means of 2 `radius` + 1 numbers along a line; at its ends of those that are there. */
function meansAlong(from: usize, count: i32, radius: i32, to: usize): void {
  let sum: f64 = 0;
  let pixels = 0;
  for (let i = 0; i < min(count, radius); i++, pixels++) sum += f64(load<f32>(from + (usize(i) << 2)));
  for (let i = 0; i < count; i++) {
    if (i + radius < count) {
      sum += f64(load<f32>(from + (usize(i + radius) << 2)));
      pixels++;
    }
    if (i - radius > 0) {
      sum -= f64(load<f32>(from + (usize(i - radius - 1) << 2)));
      pixels--;
    }
    store<f32>(to + (usize(i) << 2), f32(sum / f64(pixels)));
  }
}

/** Adds a line to 64-bit sums, or takes it away. */
function addLine(line: usize, width: i32, sign: f64, sums: usize): void {
  const signs = f64x2.splat(sign);
  let x = 0;
  for (; x + 2 <= width; x += 2, line += 8, sums += 16) {
    const values = f64x2.promote_low_f32x4(v128.load64_zero(line));
    v128.store(sums, f64x2.add(v128.load(sums), f64x2.mul(values, signs)));
  }
  if (x < width) store<f64>(sums, load<f64>(sums) + sign * f64(load<f32>(line)));
}

/**
 * Means over the (2 radius + 1) squared pixels around each; at the borders over those that are there.
 *
 * @param across room for a picture
 * @param sums room for a 64-bit float for each pixel of a line
 */
export function boxMeans(plane: usize, width: i32, height: i32, radius: i32, across: usize, sums: usize, out: usize): void {
  const line = usize(width) << 2;
  for (let y = 0; y < height; y++) meansAlong(plane + usize(y) * line, width, radius, across + usize(y) * line);
  memory.fill(sums, 0, usize(width) << 3);
  let lines = 0;
  for (let y = 0; y < min(height, radius); y++, lines++) addLine(across + usize(y) * line, width, 1, sums);
  for (let y = 0; y < height; y++) {
    if (y + radius < height) {
      addLine(across + usize(y + radius) * line, width, 1, sums);
      lines++;
    }
    if (y - radius > 0) {
      addLine(across + usize(y - radius - 1) * line, width, -1, sums);
      lines--;
    }
    const share = 1 / f64(lines);
    const shares = f64x2.splat(share);
    let x = 0;
    for (; x + 2 <= width; x += 2, out += 8) {
      const means = f64x2.mul(v128.load(sums + (usize(x) << 3)), shares);
      v128.store64_lane(out, f32x4.demote_f64x2_zero(means), 0);
    }
    if (x < width) {
      store<f32>(out, f32(load<f64>(sums + (usize(x) << 3)) * share));
      out += 4;
    }
  }
}
