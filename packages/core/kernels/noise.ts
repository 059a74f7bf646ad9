// The regressions that tell noise from structure, a row of tiles at a time. A strip holds planes of 32-bit floats: the 16
// lines of the tiles and what the filters reach above and below. Its lines end with at least four zeros, which stand for
// what lies beyond either side of the picture; masks are lanes of all ones or all zeros.
import { lieInARow, sumOfFloats, valuesAt } from './lanes';

/** Lines and columns of a tile. */
const TILE: i32 = 16;

/**
 * Brings a neighbour's luminance to a strip: at each pixel's place there, and left, right, above and below of it, as five
 * planes; zero where there is no place.
 *
 * @param others places in another neighbour, which stands in, with the opposite steps, where this one shows nothing; 0 for none
 * @param count of pixels, in fours
 * @param last the place of a neighbour's last pixel
 */
export function bringStrip(
  places: usize,
  others: usize,
  count: i32,
  luminance: usize,
  otherLuminance: usize,
  width: i32,
  last: i32,
  out: usize,
  plane: usize,
): void {
  for (let i: usize = 0; i < usize(count) << 2; i += 16, out += 16) {
    let four = v128.load(places + i);
    if (bringRow(four, luminance, width, last, out, plane, 3 * plane, plane)) continue;
    if (others && i32x4.all_true(i32x4.lt_s(four, i32x4.splat(0)))) {
      four = v128.load(others + i);
      if (bringRow(four, otherLuminance, width, last, out, 2 * plane, 4 * plane, plane)) continue;
    }
    for (let one: usize = 0; one < 16; one += 4) {
      const at = load<i32>(places + i + one);
      if (at < 0 && others) bringOne(load<i32>(others + i + one), otherLuminance, width, last, out + one, 2 * plane, 4 * plane, plane);
      else bringOne(at, luminance, width, last, out + one, plane, 3 * plane, plane);
    }
  }
}

/**
 * Brings four pixels whose places lie side by side, away from the first and the last line; says whether they do.
 *
 * @param left where what is left of a place goes, from `out` on; right is what is missing to three planes
 * @param above likewise; below is what is missing to seven
 */
function bringRow(places: v128, luminance: usize, width: i32, last: i32, out: usize, left: usize, above: usize, plane: usize): bool {
  const at = i32x4.extract_lane(places, 0);
  if (at < width || at + 3 + width > last || !lieInARow(places)) return false;
  const from = luminance + (usize(at) << 2);
  const line = usize(width) << 2;
  v128.store(out, v128.load(from));
  v128.store(out + left, v128.load(from - 4));
  v128.store(out + 3 * plane - left, v128.load(from + 4));
  v128.store(out + above, v128.load(from - line));
  v128.store(out + 7 * plane - above, v128.load(from + line));
  return true;
}

/** Brings one pixel likewise, from any place, or from none. */
function bringOne(at: i32, luminance: usize, width: i32, last: i32, out: usize, left: usize, above: usize, plane: usize): void {
  if (at < 0) {
    for (let shift: usize = 0; shift < 5; shift++) store<f32>(out + shift * plane, 0);
    return;
  }
  store<f32>(out, load<f32>(luminance + (usize(at) << 2)));
  store<f32>(out + left, load<f32>(luminance + (usize(max(at - 1, 0)) << 2)));
  store<f32>(out + 3 * plane - left, load<f32>(luminance + (usize(min(at + 1, last)) << 2)));
  store<f32>(out + above, load<f32>(luminance + (usize(at >= width ? at - width : at) << 2)));
  store<f32>(out + 7 * plane - above, load<f32>(luminance + (usize(at + width <= last ? at + width : at) << 2)));
}

/** The larger of two whole numbers each: a place where either has one. */
export function eitherStrip(a: usize, b: usize, bytes: usize, out: usize): void {
  for (let i: usize = 0; i < bytes; i += 16) v128.store(out + i, i32x4.max_s(v128.load(a + i), v128.load(b + i)));
}

/** Lanes of all ones where all of a pixel's 3 x 3 has a place, and a mask is set. @param places a line above and one below what is written */
export function knownStrip(places: usize, line: usize, rows: i32, mask: usize, scratch: usize, out: usize): void {
  const sums = scratch + 16;
  v128.store(scratch, f32x4.splat(0));
  v128.store(sums + line, f32x4.splat(0));
  const none = i32x4.splat(-1);
  for (let y = 0; y < rows; y++, places += line, mask += line, out += line) {
    for (let x: usize = 0; x < line; x += 16) {
      const at = places + line + x;
      const all = v128.and(v128.and(i32x4.gt_s(v128.load(at - line), none), i32x4.gt_s(v128.load(at), none)), i32x4.gt_s(v128.load(at + line), none));
      v128.store(sums + x, all);
    }
    for (let x: usize = 0; x < line; x += 16) {
      const at = sums + x;
      const all = v128.and(v128.and(v128.load(at - 4), v128.load(at)), v128.load(at + 4));
      v128.store(out + x, v128.and(all, v128.load(mask + x)));
    }
  }
}

/** One plane times another. */
export function multiplyStrip(a: usize, b: usize, bytes: usize, out: usize): void {
  for (let i: usize = 0; i < bytes; i += 16) v128.store(out + i, f32x4.mul(v128.load(a + i), v128.load(b + i)));
}

/** Zero for what is no number, or infinite. */
export function cleanStrip(plane: usize, bytes: usize): void {
  const none = f32x4.splat(0);
  for (let i: usize = 0; i < bytes; i += 16) {
    const values = v128.load(plane + i);
    // What is infinite or no number times zero is no zero.
    v128.store(plane + i, v128.and(values, f32x4.eq(f32x4.mul(values, none), none)));
  }
}

/** The inverse of depths; zero beyond the farthest, and where depth is no distance. */
export function nearStrip(depths: usize, bytes: usize, farthest: f32, out: usize): void {
  const one = f32x4.splat(1);
  for (let i: usize = 0; i < bytes; i += 16) {
    const values = v128.load(depths + i);
    const isDepth = v128.and(f32x4.gt(values, f32x4.splat(0)), f32x4.lt(values, f32x4.splat(farthest)));
    v128.store(out + i, v128.and(f32x4.div(one, values), isDepth));
  }
}

/**
 * Residuals as shares of how bright it is around them: of the largest of 3 x 3 pixels and a little. Negative where a mask is
 * not set.
 *
 * @param luminance a line above and one below the lines of the tiles; `squares` and `mask` begin at those
 */
export function shareStrip(squares: usize, luminance: usize, line: usize, mask: usize, least: f32, scratch: usize, out: usize): void {
  const largest = scratch + 16;
  v128.store(scratch, f32x4.splat(0));
  v128.store(largest + line, f32x4.splat(0));
  for (let y = 0; y < TILE; y++, squares += line, luminance += line, mask += line, out += line) {
    for (let x: usize = 0; x < line; x += 16) {
      const at = luminance + line + x;
      v128.store(largest + x, f32x4.max(f32x4.max(v128.load(at - line), v128.load(at + line)), v128.load(at)));
    }
    for (let x: usize = 0; x < line; x += 16) {
      const at = largest + x;
      const most = f32x4.max(f32x4.max(v128.load(at - 4), v128.load(at + 4)), f32x4.max(v128.load(at), f32x4.splat(0)));
      const share = f32x4.div(f32x4.sqrt(v128.load(squares + x)), f32x4.add(most, f32x4.splat(least)));
      v128.store(out + x, v128.bitselect(share, f32x4.splat(-1), v128.load(mask + x)));
    }
  }
}

/** Sums over the pixels of every tile of a strip where a mask is set. @param out one 64-bit float a tile */
export function sumTiles(plane: usize, line: usize, mask: usize, tiles: i32, out: usize): void {
  for (let tile = 0; tile < tiles; tile++, out += 8, plane += 64, mask += 64) {
    let sum: f64 = 0;
    for (let y: usize = 0; y < usize(TILE); y++) {
      let part = f32x4.splat(0);
      for (let x: usize = 0; x < 64; x += 16) part = f32x4.add(part, v128.and(v128.load(plane + y * line + x), v128.load(mask + y * line + x)));
      sum += sumOfFloats(part);
    }
    store<f64>(out, sum);
  }
}

/**
 * Sums over the pixels of every tile of squares, each cut where its share is beyond a limit: to what it would be at the
 * limit. A limit that is no number cuts nothing.
 *
 * @param rims above 0 at pixels that have a limit of their own
 */
export function cutTiles(squares: usize, shares: usize, rims: usize, line: usize, tiles: i32, limit: f32, limitAtRims: f32, out: usize): void {
  const mostInside = f32x4.splat(limit);
  const mostAtRims = f32x4.splat(limitAtRims);
  for (let tile = 0; tile < tiles; tile++, out += 8, squares += 64, shares += 64, rims += 64) {
    let sum: f64 = 0;
    for (let y: usize = 0; y < usize(TILE); y++) {
      let part = f32x4.splat(0);
      for (let x: usize = 0; x < 64; x += 16) {
        const at = y * line + x;
        const square = v128.load(squares + at);
        const share = v128.load(shares + at);
        const most = v128.bitselect(mostAtRims, mostInside, f32x4.gt(v128.load(rims + at), f32x4.splat(0)));
        const less = f32x4.div(most, share);
        const isCut = f32x4.gt(share, most);
        part = f32x4.add(part, v128.bitselect(f32x4.mul(square, f32x4.mul(less, less)), square, isCut));
      }
      sum += sumOfFloats(part);
    }
    store<f64>(out, sum);
  }
}

/** Takes away places whose depth is another: a share of `tolerance` may differ, and where nothing is met nothing may be. @param count of places, in fours */
export function hideDepths(places: usize, count: i32, depths: usize, others: usize, farthest: f32, tolerance: f32): void {
  for (let i = 0; i < count; i += 4, places += 16, depths += 16) {
    const four = v128.load(places);
    if (!v128.any_true(i32x4.ge_s(four, i32x4.splat(0)))) continue;
    const here = v128.load(depths);
    const there = valuesAt(others, four);
    const isNear = f32x4.le(f32x4.abs(f32x4.sub(there, here)), f32x4.mul(f32x4.splat(tolerance), f32x4.abs(here)));
    const isFar = f32x4.ge(there, f32x4.splat(farthest));
    const isSame = v128.bitselect(isFar, isNear, f32x4.ge(here, f32x4.splat(farthest)));
    v128.store(places, v128.or(four, v128.not(isSame)));
  }
}

/**
 * Takes away places whose normal is another.
 *
 * @param count of places, in fours
 * @param plane bytes from one component to the next; `otherPlane` those of the others
 * @param most squared distance
 */
export function hideNormals(places: usize, count: i32, normals: usize, plane: usize, others: usize, otherPlane: usize, most: f32): void {
  for (let i = 0; i < count; i += 4, places += 16, normals += 16) {
    const four = v128.load(places);
    if (!v128.any_true(i32x4.ge_s(four, i32x4.splat(0)))) continue;
    const inARow = lieInARow(four);
    const other = others + (usize(i32x4.extract_lane(four, 0)) << 2);
    const x = f32x4.sub(v128.load(normals), inARow ? v128.load(other) : valuesAt(others, four));
    const y = f32x4.sub(v128.load(normals + plane), inARow ? v128.load(other + otherPlane) : valuesAt(others + otherPlane, four));
    const z = f32x4.sub(v128.load(normals + 2 * plane), inARow ? v128.load(other + 2 * otherPlane) : valuesAt(others + 2 * otherPlane, four));
    const distance = f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.mul(z, z));
    v128.store(places, v128.or(four, v128.not(f32x4.lt(distance, f32x4.splat(most)))));
  }
}

/** Pixels of every tile of a strip whose lanes are set. @param out one 64-bit float a tile */
export function countTiles(lanes: usize, line: usize, tiles: i32, out: usize): void {
  for (let tile = 0; tile < tiles; tile++, out += 8, lanes += 64) {
    let sum = i32x4.splat(0);
    for (let y: usize = 0; y < usize(TILE); y++) for (let x: usize = 0; x < 64; x += 16) sum = i32x4.sub(sum, v128.load(lanes + y * line + x));
    store<f64>(out, f64(i32x4.extract_lane(sum, 0) + i32x4.extract_lane(sum, 1) + i32x4.extract_lane(sum, 2) + i32x4.extract_lane(sum, 3)));
  }
}
