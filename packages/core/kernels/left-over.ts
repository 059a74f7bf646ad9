// What regressions leave of a tile: see tile-columns.ts for how its columns lie. Squares and residuals are written as a strip
// has them (see noise.ts), lines `line` bytes from each other.
import { sumOfFloats } from './lanes';
import { ROW, SIDE } from './normal-equations';
import { COLUMN, TILE_BYTES, TILE_LINE } from './tile-columns';

const TILE: usize = 16;
/** Along edges few pixels carry both noise and fit. Believed further, their noise is found, but so is what leaks of mirrors. */
const MOST_LEVERAGE: f32 = 0.7;

/** Coefficients as 32-bit floats. @param next bytes from one to the next */
export function roundAll(coefficients: usize, next: usize, count: usize, out: usize): void {
  for (let a: usize = 0; a < count; a++) store<f32>(out + a * 4, f32(load<f64>(coefficients + a * next)));
}

/**
 * A line of a tile less what its columns explain.
 *
 * @param target bytes from the first column to the one that is explained
 */
function leaveLine(pixels: usize, target: usize, count: usize, coefficients: usize, residuals: usize): void {
  let a = v128.load(pixels + target);
  let b = v128.load(pixels + target, 16);
  let c = v128.load(pixels + target, 32);
  let d = v128.load(pixels + target, 48);
  for (const end = coefficients + count * 4; coefficients < end; coefficients += 4, pixels += COLUMN) {
    const coefficient = v128.load32_splat(coefficients);
    a = f32x4.sub(a, f32x4.mul(v128.load(pixels), coefficient));
    b = f32x4.sub(b, f32x4.mul(v128.load(pixels, 16), coefficient));
    c = f32x4.sub(c, f32x4.mul(v128.load(pixels, 32), coefficient));
    d = f32x4.sub(d, f32x4.mul(v128.load(pixels, 48), coefficient));
  }
  v128.store(residuals, a);
  v128.store(residuals, b, 16);
  v128.store(residuals, c, 32);
  v128.store(residuals, d, 48);
}

/** Residuals of a tile and their squares, each over the same share of freedom; the sum of the squares. */
export function leavePlain(own: usize, target: usize, count: usize, coefficients: usize, line: usize, freedom: f32, squares: usize, residuals: usize): f64 {
  const scale = f32x4.splat(1 / freedom);
  let sum: f64 = 0;
  for (let y: usize = 0; y < TILE; y++, squares += line, residuals += line) {
    leaveLine(own + y * TILE_LINE, target, count, coefficients, residuals);
    let part = f32x4.splat(0);
    for (let x: usize = 0; x < TILE_LINE; x += 16) {
      const left = v128.load(residuals + x);
      const square = f32x4.mul(f32x4.mul(left, left), scale);
      v128.store(squares + x, square);
      part = f32x4.add(part, square);
    }
    sum += sumOfFloats(part);
  }
  return sum;
}

/**
 * The same, each pixel over the freedom that its weight in its own fit leaves.
 *
 * @param spread the columns, spread
 * @param inverse as `roundInverse` has it
 * @param every that is asked of the pixels of each so many lines
 * @param became one 64-bit float: what all squares are to be multiplied with, as those of the lines became that were asked; 1
 *   where all were
 */
export function leaveSpread(
  own: usize,
  target: usize,
  spread: usize,
  count: usize,
  coefficients: usize,
  inverse: usize,
  line: usize,
  every: usize,
  squares: usize,
  residuals: usize,
  became: usize,
): f64 {
  let all: f64 = 0;
  let asked: f64 = 0;
  let freed: f64 = 0;
  for (let y: usize = 0; y < TILE; y++, squares += line, residuals += line) {
    leaveLine(own + y * TILE_LINE, target, count, coefficients, residuals);
    let part = f32x4.splat(0);
    for (let x: usize = 0; x < TILE_LINE; x += 16) {
      const left = v128.load(residuals + x);
      const square = f32x4.mul(left, left);
      part = f32x4.add(part, square);
      v128.store(squares + x, square);
    }
    const sum = sumOfFloats(part);
    all += sum;
    if (y % every != every >> 1) continue;
    let over = f32x4.splat(0);
    for (let x: usize = 0; x < TILE_LINE; x += 32) {
      weighTwo(own + y * TILE_LINE + x, spread + y * TILE_LINE + x, count, inverse);
      for (let i: usize = 0; i < 2; i++) {
        const at = squares + x + i * 16;
        const freedom = f32x4.sub(f32x4.splat(1), v128.load(leverages + i * 16));
        const square = f32x4.div(v128.load(at), freedom);
        over = f32x4.add(over, square);
        if (every == 1) v128.store(at, square);
      }
    }
    asked += sum;
    freed += sumOfFloats(over);
  }
  const share = asked > 0 ? freed / asked : 1;
  store<f64>(became, every > 1 ? share : 1);
  return all * share;
}

/** The inverse as 32-bit floats, a line of 32 for each of its rows, with zeros up to the next multiple of four. */
export function roundInverse(inverse: usize, count: usize, out: usize): void {
  const filled = (count + 3) & ~3;
  for (let a: usize = 0; a < count; a++, inverse += ROW, out += SIDE * 4) {
    roundAll(inverse, 8, count, out);
    for (let b = count; b < filled; b++) store<f32>(out + b * 4, 0);
  }
}

const leverages = memory.data(32, 16);

/** What eight pixels, side by side, weigh in their own fit, as far as it is believed: as `leverages`. */
function weighTwo(pixels: usize, spread: usize, count: usize, inverse: usize): void {
  let first = f32x4.splat(0);
  let second = f32x4.splat(0);
  for (let a: usize = 0; a < count; a += 4) {
    let p0 = f32x4.splat(0);
    let p1 = f32x4.splat(0);
    let p2 = f32x4.splat(0);
    let p3 = f32x4.splat(0);
    let q0 = f32x4.splat(0);
    let q1 = f32x4.splat(0);
    let q2 = f32x4.splat(0);
    let q3 = f32x4.splat(0);
    let row = inverse + a * 4;
    for (let at = spread; at < spread + count * TILE_BYTES; at += TILE_BYTES, row += SIDE * 4) {
      const one = v128.load(at);
      const other = v128.load(at, 16);
      let weight = v128.load32_splat(row);
      p0 = f32x4.add(p0, f32x4.mul(weight, one));
      q0 = f32x4.add(q0, f32x4.mul(weight, other));
      weight = v128.load32_splat(row, 4);
      p1 = f32x4.add(p1, f32x4.mul(weight, one));
      q1 = f32x4.add(q1, f32x4.mul(weight, other));
      weight = v128.load32_splat(row, 8);
      p2 = f32x4.add(p2, f32x4.mul(weight, one));
      q2 = f32x4.add(q2, f32x4.mul(weight, other));
      weight = v128.load32_splat(row, 12);
      p3 = f32x4.add(p3, f32x4.mul(weight, one));
      q3 = f32x4.add(q3, f32x4.mul(weight, other));
    }
    const columns = pixels + a * COLUMN;
    first = f32x4.add(first, f32x4.mul(p0, v128.load(columns)));
    first = f32x4.add(first, f32x4.mul(p1, v128.load(columns, COLUMN)));
    first = f32x4.add(first, f32x4.mul(p2, v128.load(columns, 2 * COLUMN)));
    first = f32x4.add(first, f32x4.mul(p3, v128.load(columns, 3 * COLUMN)));
    second = f32x4.add(second, f32x4.mul(q0, v128.load(columns, 16)));
    second = f32x4.add(second, f32x4.mul(q1, v128.load(columns, COLUMN + 16)));
    second = f32x4.add(second, f32x4.mul(q2, v128.load(columns, 2 * COLUMN + 16)));
    second = f32x4.add(second, f32x4.mul(q3, v128.load(columns, 3 * COLUMN + 16)));
  }
  const none = f32x4.splat(0);
  const most = f32x4.splat(MOST_LEVERAGE);
  v128.store(leverages, f32x4.min(f32x4.max(first, none), most));
  v128.store(leverages, f32x4.min(f32x4.max(second, none), most), 16);
}
