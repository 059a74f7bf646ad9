// Sums of what the columns of tiles make with each other: see tile-columns.ts for how they lie.
import { sumOfFloats } from './lanes';
import { at, MATRIX, ROW } from './normal-equations';
import { COLUMN, OWN, TILE_BYTES } from './tile-columns';

/** Sums over a tile of the products of two columns, one behind the other, with four others. */
function products(two: usize, four: usize, out: usize): void {
  let a0 = f32x4.splat(0);
  let a1 = f32x4.splat(0);
  let a2 = f32x4.splat(0);
  let a3 = f32x4.splat(0);
  let b0 = f32x4.splat(0);
  let b1 = f32x4.splat(0);
  let b2 = f32x4.splat(0);
  let b3 = f32x4.splat(0);
  for (const end = two + TILE_BYTES; two < end; two += 16, four += 16) {
    const a = v128.load(two);
    const b = v128.load(two, COLUMN);
    let value = v128.load(four);
    a0 = f32x4.add(a0, f32x4.mul(a, value));
    b0 = f32x4.add(b0, f32x4.mul(b, value));
    value = v128.load(four, COLUMN);
    a1 = f32x4.add(a1, f32x4.mul(a, value));
    b1 = f32x4.add(b1, f32x4.mul(b, value));
    value = v128.load(four, 2 * COLUMN);
    a2 = f32x4.add(a2, f32x4.mul(a, value));
    b2 = f32x4.add(b2, f32x4.mul(b, value));
    value = v128.load(four, 3 * COLUMN);
    a3 = f32x4.add(a3, f32x4.mul(a, value));
    b3 = f32x4.add(b3, f32x4.mul(b, value));
  }
  store<f64>(out, sumOfFloats(a0));
  store<f64>(out, sumOfFloats(a1), 8);
  store<f64>(out, sumOfFloats(a2), 16);
  store<f64>(out, sumOfFloats(a3), 24);
  store<f64>(out, sumOfFloats(b0), ROW);
  store<f64>(out, sumOfFloats(b1), ROW + 8);
  store<f64>(out, sumOfFloats(b2), ROW + 16);
  store<f64>(out, sumOfFloats(b3), ROW + 24);
}

/**
 * Sums of the products of the columns of every tile, two by two.
 *
 * @param columns of the first tile, `next` bytes before those of the next: `count` of them and what they explain, with zeros
 *   up to the next multiple of four
 * @param grams one matrix of 32 x 32 64-bit floats a tile
 */
export function multiplyTiles(columns: usize, next: usize, count: usize, tiles: i32, grams: usize): void {
  for (let tile = 0, own = columns + OWN; tile < tiles; tile++, own += next, grams += MATRIX) {
    for (let a: usize = 0; a <= count; a += 2) for (let b: usize = 0; b <= a + 1; b += 4) products(own + a * COLUMN, own + b * COLUMN, at(grams, a, b));
  }
}

/**
 * The same of the first four columns with all others and themselves, of some tiles.
 *
 * @param count of all columns, these four among them
 * @param weights one 64-bit float a tile; those of 0 are passed over
 */
export function multiplyFirst(columns: usize, next: usize, count: usize, tiles: i32, weights: usize, grams: usize): void {
  for (let tile = 0, own = columns + OWN; tile < tiles; tile++, own += next, grams += MATRIX, weights += 8) {
    if (load<f64>(weights) == 0) continue;
    for (let a: usize = 0; a <= count; a += 2) products(own + a * COLUMN, own, at(grams, a, 0));
  }
}
