// The high-pass that noise is measured behind, over a whole picture.

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
