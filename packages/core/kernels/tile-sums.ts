// Sums of what the columns of a strip's tiles make with each other: see noise.ts for what a strip is.
import { sumOfFloats } from './lanes';
import { at, MATRIX, ROW } from './normal-equations';

const TILE: usize = 16;
/** Bytes of a line of a tile. */
const TILE_LINE: usize = 64;

/** Sums over a tile of the products of two columns with four others, which stand `next` bytes from each other. */
function products(first: usize, second: usize, others: usize, next: usize, line: usize, out: usize): void {
  let a0 = f32x4.splat(0);
  let a1 = f32x4.splat(0);
  let a2 = f32x4.splat(0);
  let a3 = f32x4.splat(0);
  let b0 = f32x4.splat(0);
  let b1 = f32x4.splat(0);
  let b2 = f32x4.splat(0);
  let b3 = f32x4.splat(0);
  for (let y: usize = 0; y < TILE; y++, first += line, second += line, others += line) {
    for (let x: usize = 0; x < TILE_LINE; x += 16) {
      const a = v128.load(first + x);
      const b = v128.load(second + x);
      let at = others + x;
      let value = v128.load(at);
      a0 = f32x4.add(a0, f32x4.mul(a, value));
      b0 = f32x4.add(b0, f32x4.mul(b, value));
      at += next;
      value = v128.load(at);
      a1 = f32x4.add(a1, f32x4.mul(a, value));
      b1 = f32x4.add(b1, f32x4.mul(b, value));
      at += next;
      value = v128.load(at);
      a2 = f32x4.add(a2, f32x4.mul(a, value));
      b2 = f32x4.add(b2, f32x4.mul(b, value));
      at += next;
      value = v128.load(at);
      a3 = f32x4.add(a3, f32x4.mul(a, value));
      b3 = f32x4.add(b3, f32x4.mul(b, value));
    }
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
 * Sums of the products of the columns of every tile of a strip, two by two.
 *
 * @param columns `count` of them and what they explain, `plane` bytes from each other, with zeros up to the next multiple
 *   of four
 * @param grams one matrix of 32 x 32 64-bit floats a tile
 */
export function multiplyTiles(columns: usize, plane: usize, count: usize, line: usize, tiles: i32, grams: usize): void {
  for (let tile = 0; tile < tiles; tile++, grams += MATRIX) {
    const own = columns + 2 * line + usize(tile) * TILE_LINE;
    for (let a: usize = 0; a <= count; a += 2)
      for (let b: usize = 0; b <= a + 1; b += 4) products(own + a * plane, own + (a + 1) * plane, own + b * plane, plane, line, at(grams, a, b));
  }
}

/**
 * The same of the first four columns with all others and themselves, of some tiles.
 *
 * @param count of all columns, these four among them
 * @param weights one 64-bit float a tile; those of 0 are passed over
 */
export function multiplyFirst(columns: usize, plane: usize, count: usize, line: usize, tiles: i32, weights: usize, grams: usize): void {
  for (let tile = 0; tile < tiles; tile++, grams += MATRIX, weights += 8) {
    if (load<f64>(weights) == 0) continue;
    const own = columns + 2 * line + usize(tile) * TILE_LINE;
    for (let a: usize = 0; a <= count; a += 2) products(own + a * plane, own + (a + 1) * plane, own, plane, line, at(grams, a, 0));
  }
}
