// What lies within pixels that several things share, a strip at a time: see noise.ts for what a strip is.
import { sumOfFloats } from './lanes';

/** Things differ within a pixel where its albedo holds so much of its square, or its normals so much. */
const ALBEDO_HOLDS: f32 = 0.002;
const NORMALS_HOLD: f32 = 0.01;
/** Less albedo is none. */
const LEAST_ALBEDO: f32 = 1e-8;

/**
 * What four pixels hold within themselves along one direction: p (1 - p) of the squared step where they lie on an edge, of
 * which the one side covers p; of what bends there half at most, so that what rises evenly holds nothing.
 *
 * @param step bytes from a pixel to the next
 */
function heldAlong(at: usize, step: usize): v128 {
  const two = f32x4.splat(2);
  const here = v128.load(at);
  const before = v128.load(at - step);
  const after = v128.load(at + step);
  const product = f32x4.mul(f32x4.sub(before, here), f32x4.sub(here, after));
  const bend = f32x4.sub(f32x4.add(before, after), f32x4.mul(here, two));
  const bendBefore = f32x4.sub(f32x4.add(v128.load(at - 2 * step), here), f32x4.mul(before, two));
  const bendAfter = f32x4.sub(f32x4.add(here, v128.load(at + 2 * step)), f32x4.mul(after, two));
  const bends = f32x4.add(f32x4.mul(bend, bend), f32x4.add(f32x4.mul(bendBefore, bendBefore), f32x4.mul(bendAfter, bendAfter)));
  return f32x4.max(f32x4.splat(0), f32x4.min(product, f32x4.mul(bends, f32x4.splat(0.5))));
}

/** Lanes of ones where both pixels beside one are measured: what lies two on is read as well, and is there then. */
function hasBeside(mask: usize, step: usize): v128 {
  return v128.and(v128.load(mask - step), v128.load(mask + step));
}

/** The square of what a pixel's two neighbours differ by. */
function squaredStep(at: usize, step: usize): v128 {
  const difference = f32x4.sub(v128.load(at + step), v128.load(at - step));
  return f32x4.mul(difference, difference);
}

/** Lanes of ones where albedo or normals say that two things share a pixel. Most pixels are told by their neighbours alone: no product is larger than a quarter of the squared step. */
function isShared(albedo: usize, normals: usize, plane: usize, step: usize): v128 {
  const four = f32x4.splat(4);
  let shared = i32x4.splat(0);
  if (albedo) {
    const most = f32x4.max(v128.load(albedo - step), v128.load(albedo + step));
    const limit = f32x4.add(f32x4.mul(f32x4.mul(most, most), f32x4.splat(ALBEDO_HOLDS)), f32x4.splat(LEAST_ALBEDO));
    if (v128.any_true(f32x4.gt(squaredStep(albedo, step), f32x4.mul(limit, four)))) shared = f32x4.gt(heldAlong(albedo, step), limit);
  }
  if (normals) {
    const limit = f32x4.splat(NORMALS_HOLD);
    const steps = f32x4.add(f32x4.add(squaredStep(normals, step), squaredStep(normals + plane, step)), squaredStep(normals + 2 * plane, step));
    if (v128.any_true(f32x4.gt(steps, f32x4.mul(limit, four)))) {
      const held = f32x4.add(f32x4.add(heldAlong(normals, step), heldAlong(normals + plane, step)), heldAlong(normals + 2 * plane, step));
      shared = v128.or(shared, f32x4.gt(held, limit));
    }
  }
  return shared;
}

/**
 * Sums over the pixels of every tile of what luminance holds within each, in the direction that it holds most in: of all pixels;
 * and along lines and columns alone of those that several things share, as albedo and normals say; and the number of these.
 *
 * @param light of a tile's first line, with two lines above and below its own; so are albedo and normals
 * @param albedo 0 where it is not known
 * @param normals three planes, `plane` bytes from each other; 0 where they are not known
 * @param mask lanes of the pixels that are measured, with a line above and below
 * @param all one 64-bit float a tile, and so in `ofShared` and `shared`
 */
export function withinStrip(
  light: usize,
  albedo: usize,
  normals: usize,
  plane: usize,
  line: usize,
  mask: usize,
  tiles: i32,
  all: usize,
  ofShared: usize,
  shared: usize,
): void {
  const one = f32x4.splat(1);
  for (let tile = 0; tile < tiles; tile++, all += 8, ofShared += 8, shared += 8) {
    let whole = f32x4.splat(0);
    let sum = f32x4.splat(0);
    let count = f32x4.splat(0);
    for (let y: usize = 0; y < 16; y++) {
      for (let x = usize(tile) * 64, end = x + 64; x < end; x += 16) {
        const at = y * line + x;
        const told = v128.load(mask + at);
        if (!v128.any_true(told)) continue;
        const ofAlbedo = albedo ? albedo + at : 0;
        const ofNormals = normals ? normals + at : 0;
        const acrossTold = v128.and(told, hasBeside(mask + at, 4));
        const downTold = v128.and(told, hasBeside(mask + at, line));
        const across = v128.and(acrossTold, heldAlong(light + at, 4));
        const down = v128.and(downTold, heldAlong(light + at, line));
        const falling = v128.and(v128.and(told, hasBeside(mask + at, line + 4)), heldAlong(light + at, line + 4));
        const rising = v128.and(v128.and(told, hasBeside(mask + at, line - 4)), heldAlong(light + at, line - 4));
        whole = f32x4.add(whole, f32x4.max(f32x4.max(across, down), f32x4.max(falling, rising)));
        const acrossShared = v128.and(acrossTold, isShared(ofAlbedo, ofNormals, plane, 4));
        const downShared = v128.and(downTold, isShared(ofAlbedo, ofNormals, plane, line));
        sum = f32x4.add(sum, f32x4.max(v128.and(acrossShared, across), v128.and(downShared, down)));
        count = f32x4.add(count, v128.and(v128.or(acrossShared, downShared), one));
      }
    }
    store<f64>(all, sumOfFloats(whole));
    store<f64>(ofShared, sumOfFloats(sum));
    store<f64>(shared, sumOfFloats(count));
  }
}
