// Sums of products over the pixels of a tile, for regressions of some columns.

/**
 * Sums over pixels of the products of every two columns: out[i][j] = sum of a[p][i] b[p][j].
 *
 * @param a pixels one after the other, `4 * blocks` columns of 32-bit floats each; `b` likewise
 */
export function crossProducts(a: usize, b: usize, pixels: i32, blocks: i32, out: usize): void {
  const row = usize(blocks) * 16;
  const end = a + row * usize(pixels);
  const columns = blocks * 4;
  for (let i = 0; i < columns; i += 2) {
    for (let block: usize = 0; block < row; block += 16) {
      let first = f32x4.splat(0);
      let second = f32x4.splat(0);
      let from = b + block;
      for (let at = a + usize(i) * 4; at < end; at += row, from += row) {
        const values = v128.load(from);
        first = f32x4.add(first, f32x4.mul(v128.load_splat<f32>(at), values));
        second = f32x4.add(second, f32x4.mul(v128.load_splat<f32>(at, 4), values));
      }
      v128.store(out + usize(i) * row + block, first);
      v128.store(out + usize(i + 1) * row + block, second);
    }
  }
}

/**
 * What each pixel's columns weigh in its own fit: x' G y, G symmetric.
 *
 * @param out one 32-bit float a pixel
 */
export function leverages(x: usize, y: usize, matrix: usize, pixels: i32, blocks: i32, out: usize): void {
  const row = usize(blocks) * 16;
  const columns = usize(blocks) * 4;
  for (let p = 0; p < pixels; p++, x += row, y += row, out += 4) {
    let sums = f32x4.splat(0);
    for (let block: usize = 0; block < row; block += 16) {
      let part = f32x4.splat(0);
      for (let b: usize = 0; b < columns; b++) part = f32x4.add(part, f32x4.mul(v128.load_splat<f32>(y + b * 4), v128.load(matrix + b * row + block)));
      sums = f32x4.add(sums, f32x4.mul(part, v128.load(x + block)));
    }
    store<f32>(out, f32x4.extract_lane(sums, 0) + f32x4.extract_lane(sums, 1) + f32x4.extract_lane(sums, 2) + f32x4.extract_lane(sums, 3));
  }
}

/** Each pixel's columns, weighed by `weights` (one 32-bit float a column) and summed: one 32-bit float a pixel. */
export function weighedSums(x: usize, weights: usize, pixels: i32, blocks: i32, out: usize): void {
  const row = usize(blocks) * 16;
  for (let p = 0; p < pixels; p++, x += row, out += 4) {
    let sums = f32x4.splat(0);
    for (let block: usize = 0; block < row; block += 16) sums = f32x4.add(sums, f32x4.mul(v128.load(x + block), v128.load(weights + block)));
    store<f32>(out, f32x4.extract_lane(sums, 0) + f32x4.extract_lane(sums, 1) + f32x4.extract_lane(sums, 2) + f32x4.extract_lane(sums, 3));
  }
}

/** The high-pass [1 -2 1] x [1 -2 1] / 6 of a picture; its outermost ring stays as it is. @param rows room for a line and four floats more */
export function highPass(plane: usize, width: i32, height: i32, rows: usize, out: usize): void {
  const line = usize(width) * 4;
  for (let y = 1; y < height - 1; y++) {
    const middle = plane + usize(y) * line;
    let x = 0;
    for (; x + 4 <= width; x += 4) {
      const at = middle + usize(x) * 4;
      const sum = f32x4.add(v128.load(at - line), v128.load(at + line));
      v128.store(rows + usize(x) * 4, f32x4.sub(sum, f32x4.mul(v128.load(at), f32x4.splat(2))));
    }
    for (; x < width; x++) {
      const at = middle + usize(x) * 4;
      store<f32>(rows + usize(x) * 4, load<f32>(at - line) + load<f32>(at + line) - 2 * load<f32>(at));
    }
    const target = out + usize(y) * line;
    x = 1;
    for (; x + 4 <= width - 1; x += 4) {
      const at = rows + usize(x) * 4;
      const sum = f32x4.add(v128.load(at - 4), v128.load(at + 4));
      v128.store(target + usize(x) * 4, f32x4.div(f32x4.sub(sum, f32x4.mul(v128.load(at), f32x4.splat(2))), f32x4.splat(6)));
    }
    for (; x < width - 1; x++) {
      const at = rows + usize(x) * 4;
      store<f32>(target + usize(x) * 4, (load<f32>(at - 4) + load<f32>(at + 4) - 2 * load<f32>(at)) / 6);
    }
  }
}

/** [1 -4 6 -4 1] both ways / 36; beyond the picture stands zero. @param rows room for a line and eight floats more */
export function spreadNoise(plane: usize, width: i32, height: i32, rows: usize, out: usize): void {
  const line = usize(width) * 4;
  // Down first, into a line that has zeros at its ends.
  const target = rows + 16;
  for (let y = 0; y < height; y++) {
    v128.store(target - 16, f32x4.splat(0));
    for (let x = 0; x < width; x += 4) {
      const at = plane + usize(y) * line + usize(x) * 4;
      let sum = f32x4.mul(v128.load(at), f32x4.splat(6));
      if (y > 0) sum = f32x4.sub(sum, f32x4.mul(v128.load(at - line), f32x4.splat(4)));
      if (y < height - 1) sum = f32x4.sub(sum, f32x4.mul(v128.load(at + line), f32x4.splat(4)));
      if (y > 1) sum = f32x4.add(sum, v128.load(at - 2 * line));
      if (y < height - 2) sum = f32x4.add(sum, v128.load(at + 2 * line));
      v128.store(target + usize(x) * 4, sum);
    }
    v128.store(target + line, f32x4.splat(0));
    const to = out + usize(y) * line;
    for (let x = 0; x < width; x += 4) {
      const at = target + usize(x) * 4;
      const near = f32x4.mul(f32x4.add(v128.load(at - 4), v128.load(at + 4)), f32x4.splat(4));
      const far = f32x4.add(v128.load(at - 8), v128.load(at + 8));
      const sum = f32x4.sub(f32x4.add(f32x4.mul(v128.load(at), f32x4.splat(6)), far), near);
      v128.store(to + usize(x) * 4, f32x4.div(sum, f32x4.splat(36)));
    }
  }
}
