// Where things end, a strip at a time: see noise.ts for what a strip is.
import { BLOCK } from './surfaces';

/** How far three values are from a straight line. */
function bend(before: v128, here: v128, after: v128): v128 {
  return f32x4.abs(f32x4.sub(f32x4.add(before, after), f32x4.add(here, here)));
}

/** The largest of 3 x 3 less the least, squared, for four pixels. @param at of the first of them, a line above and one below it */
function squaredSpan(at: usize, line: usize): v128 {
  let least = v128.load(at);
  let most = least;
  for (let row = at - line; row <= at + line; row += line) {
    for (let x = row - 4; x <= row + 4; x += 4) {
      const value = v128.load(x);
      least = f32x4.min(least, value);
      most = f32x4.max(most, value);
    }
  }
  const span = f32x4.sub(most, least);
  return f32x4.mul(span, span);
}

/**
 * Marks pixels at the rims of things, and those around them: where nearness, which is straight along flat things however they
 * lie, bends, or normals leap.
 *
 * @param near of the lines of a tile, two lines more above and below than `rows`; 0 where it is not known
 * @param normals three planes likewise, `plane` bytes from each other; 0 where they are not known
 * @param mask of the pixels that are measured, one line more above and below than `rows`
 * @param flags what `surfaceStrip` says of blocks of these lines and of one more above them: those of one surface have no rim;
 *   0 where it says nothing
 * @param bent share of the nearness by which it bends at a rim
 * @param most squared span of normals over 3 x 3 pixels
 * @param edges room for as many lines as the mask has, with 16 bytes of zeros at either end
 * @param out 1 at rims, 0 elsewhere
 */
export function rimStrip(
  near: usize,
  normals: usize,
  plane: usize,
  mask: usize,
  line: usize,
  rows: i32,
  flags: usize,
  bent: f32,
  most: f32,
  edges: usize,
  out: usize,
): void {
  const one = f32x4.splat(1);
  const blocks = (line + 63) / 64;
  for (let y: usize = 0; y < usize(rows) + 2; y++) {
    const step = (y + 1) * line;
    const said = flags ? flags + ((y + 2) / usize(BLOCK)) * blocks * 4 : 0;
    for (let x: usize = 0; x < line; x += 16) {
      if (said && load<i32>(said + (x >> 6) * 4)) {
        v128.store(edges + y * line + x, i32x4.splat(0));
        continue;
      }
      let isRim = i32x4.splat(0);
      if (near) {
        const at = near + step + x;
        const here = v128.load(at);
        const bends = f32x4.max(bend(v128.load(at - 4), here, v128.load(at + 4)), bend(v128.load(at - line), here, v128.load(at + line)));
        isRim = f32x4.gt(bends, f32x4.mul(here, f32x4.splat(bent)));
      }
      if (normals) {
        const at = normals + step + x;
        const spans = f32x4.add(f32x4.add(squaredSpan(at, line), squaredSpan(at + plane, line)), squaredSpan(at + 2 * plane, line));
        isRim = v128.or(isRim, f32x4.gt(spans, f32x4.splat(most)));
      }
      v128.store(edges + y * line + x, v128.and(isRim, v128.load(mask + y * line + x)));
    }
  }
  for (let y: usize = 0; y < usize(rows); y++) {
    for (let x: usize = 0; x < line; x += 16) {
      let around = i32x4.splat(0);
      for (let row = edges + y * line + x; row <= edges + (y + 2) * line + x; row += line)
        around = v128.or(around, v128.or(v128.or(v128.load(row - 4), v128.load(row)), v128.load(row + 4)));
      v128.store(out + y * line + x, v128.and(around, one));
    }
  }
}
