// The normal equations of a tile's regression: symmetric matrices of sums, as 64-bit floats.

/** Columns that a matrix of a tile's sums has room for, and its bytes: 64-bit floats. */
export const SIDE: usize = 32;
export const ROW: usize = SIDE * 8;
export const MATRIX: usize = SIDE * ROW;

/** Added to the diagonal, as a share: what stands in line with others gets a part, not everything. */
const RIDGE: f64 = 1e-4;

export function at(matrix: usize, row: usize, column: usize): usize {
  return matrix + row * ROW + column * 8;
}

/** Sum of the products of numbers that lie side by side, from the first to before the one at `end`. */
function dot(a: usize, b: usize, first: usize, end: usize): f64 {
  let pairs = f64x2.splat(0);
  let i = first;
  for (; i + 2 <= end; i += 2) pairs = f64x2.add(pairs, f64x2.mul(v128.load(a + i * 8), v128.load(b + i * 8)));
  const sum = f64x2.extract_lane(pairs, 0) + f64x2.extract_lane(pairs, 1);
  return i < end ? sum + load<f64>(a + i * 8) * load<f64>(b + i * 8) : sum;
}

/** Cholesky's lower factor of a symmetric matrix whose diagonal is positive; rows that the others explain have a pivot of zero. */
export function factor(matrix: usize, count: usize, lower: usize): void {
  for (let a: usize = 0; a < count; a++) {
    const row = at(lower, a, 0);
    for (let b: usize = 0; b < a; b++) {
      const pivot = load<f64>(at(lower, b, b));
      store<f64>(row + b * 8, pivot == 0 ? 0 : (load<f64>(at(matrix, a, b)) - dot(row, at(lower, b, 0), 0, b)) / pivot);
    }
    const diagonal = load<f64>(at(matrix, a, a)) * (1 + RIDGE);
    const left = diagonal - dot(row, row, 0, a);
    store<f64>(row + a * 8, left > diagonal * 1e-9 ? Math.sqrt(left) : 0);
  }
}

/**
 * Solves and inverts at once, by Gauss's and Jordan's elimination in place, whose pivots of a symmetric matrix with a positive
 * diagonal need no order: no step waits for the last number of the one before, as those of a triangle do. Rows that the others
 * explain come out as zero.
 *
 * @param sums of the columns with what they explain
 * @param room for a matrix, of which the inverse comes out, and behind each of its rows the coefficient
 */
export function invert(matrix: usize, count: usize, sums: usize, room: usize): void {
  for (let a: usize = 0; a < count; a++) {
    for (let b: usize = 0; b < a; b++) {
      const sum = load<f64>(at(matrix, a, b));
      store<f64>(at(room, a, b), sum);
      store<f64>(at(room, b, a), sum);
    }
    store<f64>(at(room, a, a), load<f64>(at(matrix, a, a)) * (1 + RIDGE));
    store<f64>(at(room, a, count), load<f64>(sums + a * 8));
    store<f64>(at(room, a, count + 1), 0);
  }
  // Two by two, with the coefficients.
  const end = ((count >> 1) + 1) * 16;
  for (let k: usize = 0; k < count; k++) {
    const own = at(room, k, 0);
    const pivot = load<f64>(own + k * 8);
    // What is left of it where others explain it is nothing but rounding.
    if (!(pivot > load<f64>(at(matrix, k, k)) * 1e-9)) {
      for (let x: usize = 0; x < end; x += 16) v128.store(own + x, f64x2.splat(0));
      for (let a: usize = 0; a < count; a++) store<f64>(at(room, a, k), 0);
      continue;
    }
    const share = 1 / pivot;
    const shares = f64x2.splat(share);
    for (let x: usize = 0; x < end; x += 16) v128.store(own + x, f64x2.mul(v128.load(own + x), shares));
    store<f64>(own + k * 8, share);
    for (let a: usize = 0; a < count; a++) {
      if (a == k) continue;
      const row = at(room, a, 0);
      const by = load<f64>(row + k * 8);
      const times = f64x2.splat(by);
      for (let x: usize = 0; x < end; x += 16) v128.store(row + x, f64x2.sub(v128.load(row + x), f64x2.mul(times, v128.load(own + x))));
      store<f64>(row + k * 8, -by * share);
    }
  }
}

/**
 * As `solve`, of four columns together.
 *
 * @param sums of the first of them; one ROW on stand those of the next
 * @param out for each row of the matrix the coefficients of the four, side by side
 */
export function solveFour(lower: usize, count: usize, sums: usize, out: usize): void {
  for (let a: usize = 0; a < count; a++) {
    const own = sums + a * 8;
    let one = f64x2(load<f64>(own), load<f64>(own, ROW));
    let other = f64x2(load<f64>(own, 2 * ROW), load<f64>(own, 3 * ROW));
    const row = at(lower, a, 0);
    for (let b: usize = 0; b < a; b++) {
      const by = v128.load64_splat(row + b * 8);
      one = f64x2.sub(one, f64x2.mul(by, v128.load(out + b * 32)));
      other = f64x2.sub(other, f64x2.mul(by, v128.load(out + b * 32, 16)));
    }
    divide(one, other, load<f64>(row + a * 8), out + a * 32);
  }
  for (let a = i32(count) - 1; a >= 0; a--) {
    const to = out + usize(a) * 32;
    let one = v128.load(to);
    let other = v128.load(to, 16);
    for (let b = usize(a) + 1; b < count; b++) {
      const by = v128.load64_splat(at(lower, b, usize(a)));
      one = f64x2.sub(one, f64x2.mul(by, v128.load(out + b * 32)));
      other = f64x2.sub(other, f64x2.mul(by, v128.load(out + b * 32, 16)));
    }
    divide(one, other, load<f64>(at(lower, usize(a), usize(a))), to);
  }
}

/** Four numbers over a pivot; zero where that is. */
function divide(one: v128, other: v128, pivot: f64, out: usize): void {
  const by = f64x2.splat(pivot == 0 ? 0 : 1 / pivot);
  v128.store(out, f64x2.mul(one, by));
  v128.store(out, f64x2.mul(other, by), 16);
}

/** What a factored matrix times makes of others: of the columns' sums with what they explain, their coefficients. */
export function solve(lower: usize, count: usize, sums: usize, out: usize): void {
  for (let a: usize = 0; a < count; a++) {
    const pivot = load<f64>(at(lower, a, a));
    store<f64>(out + a * 8, pivot == 0 ? 0 : (load<f64>(sums + a * 8) - dot(at(lower, a, 0), out, 0, a)) / pivot);
  }
  for (let a = i32(count) - 1; a >= 0; a--) {
    const pivot = load<f64>(at(lower, usize(a), usize(a)));
    let sum = load<f64>(out + usize(a) * 8);
    for (let i = usize(a) + 1; i < count; i++) sum -= load<f64>(at(lower, i, usize(a))) * load<f64>(out + i * 8);
    store<f64>(out + usize(a) * 8, pivot == 0 ? 0 : sum / pivot);
  }
}
