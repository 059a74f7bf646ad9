import { TileProducts } from '../../kernels/index.ts';

/** What explains a part of the high-passed luminance. */
export interface Column {
  /** High-passed, zero where it is not known. */
  readonly values: Float32Array;
  /** How many noisy pixels stand in each of its values, the middle ones of their filters; null for what has no noise. */
  readonly noisy: Uint8Array | null;
}

/** What one tile's regression leaves. */
export interface TileFit {
  /** Mean of the squares, corrected for overfit and for the neighbours' own noise. */
  readonly variance: number;
  /** The neighbours' noise that went into the residuals, as a factor of the own. */
  readonly excess: number;
}

/** Added to the diagonal, as a share: what stands in line with others gets a part, not everything. */
const RIDGE = 1e-4;
const MOST_LEVERAGE = 0.7;

/**
 * Regresses the high-passed luminance of a tile on columns, so that what the columns explain is not read as noise. The
 * high-pass colours noise, hence a column of noise takes more than one degree of freedom: the leverage of each pixel is
 * worked out with the columns spread by the high-pass's autocorrelation; and what the columns' own noise adds is
 * divided out.
 *
 * @param columns of the whole picture
 * @param spread the same (weighted) columns, through the autocorrelation; null for columns without noise, of which each
 *   takes one degree of freedom
 * @param pixels of the tile
 * @param weights of pixels; null where all count the same
 * @param squares gets the corrected square of each pixel's residual, before the neighbours' noise is divided out
 * @returns null where there are too few pixels
 */
export function fitTile(
  columns: readonly Column[],
  spread: readonly Float32Array[] | null,
  target: Float32Array,
  pixels: Int32Array,
  weights: Float32Array | null,
  squares: Float32Array,
  residuals: Float32Array,
): TileFit | null {
  const used = columns.map((_, i) => i).filter((i) => hasEnergy(columns[i]!.values, pixels));
  const count = used.length;
  const n = pixels.length;
  if (n < count + LEAST_FREEDOM) return null;
  // What is explained stands behind the columns: its products with them come out of the same sums.
  const sums = new TileProducts(n, count + 1);
  const { stride } = sums;
  used.forEach((i, a) => {
    fill(sums.columns, columns[i]!.values, pixels, stride, a, null);
    fill(sums.weighted, columns[i]!.values, pixels, stride, a, weights);
    if (spread) fill(sums.spread, spread[i]!, pixels, stride, a, null);
  });
  fill(sums.columns, target, pixels, stride, count, null);
  const products = sums.products('columns');
  const inverse = invert(withRidge(products, stride, count), count);
  const coefficients = new Float64Array(count);
  for (let a = 0; a < count; a++) for (let b = 0; b < count; b++) coefficients[a] = coefficients[a]! + inverse[a * count + b]! * products[b * stride + count]!;
  const leverages = spread ? sums.leverages(widened(inverse, count, stride)) : null;
  const ofColumns = new Float32Array(stride);
  ofColumns[count] = 1;
  for (let a = 0; a < count; a++) ofColumns[a] = -coefficients[a]!;
  const left = sums.weighedSums(ofColumns);
  let sum = 0;
  for (let p = 0; p < n; p++) {
    const pixel = pixels[p]!;
    const residual = left[p]!;
    const leverage = leverages ? leverages[p]! : count / n;
    const square = (residual * residual) / (1 - Math.min(MOST_LEVERAGE, Math.max(0, leverage)));
    squares[pixel] = square;
    residuals[pixel] = residual;
    sum += square;
  }
  const mean = sum / n;
  if (!spread) return { variance: mean, excess: 1 };
  const crossed = narrowed(sums.products('spread'), stride, count);
  let excess = 1;
  used.forEach((i, a) => {
    const { noisy } = columns[i]!;
    if (!noisy) return;
    let known = 0;
    for (let p = 0; p < n; p++) known += noisy[pixels[p]!]!;
    excess += (known / n) * (coefficients[a]! ** 2 - mean * varianceOf(inverse, crossed, a, count));
  });
  excess = Math.max(1, excess);
  return { variance: mean / excess, excess };
}

/** Fewer pixels than columns and this many say nothing. */
const LEAST_FREEDOM = 8;

/** Writes one column's values at the pixels. */
function fill(out: Float32Array, plane: Float32Array, pixels: Int32Array, stride: number, column: number, weights: Float32Array | null): void {
  for (let p = 0, at = column; p < pixels.length; p++, at += stride) out[at] = plane[pixels[p]!]! * (weights ? weights[pixels[p]!]! : 1);
}

/** Without the columns that only fill a vector. */
function narrowed(matrix: Float32Array, stride: number, count: number): Float64Array {
  const out = new Float64Array(count * count);
  for (let a = 0; a < count; a++) for (let b = 0; b < count; b++) out[a * count + b] = matrix[a * stride + b]!;
  return out;
}

function widened(matrix: Float64Array, count: number, stride: number): Float32Array {
  const out = new Float32Array(stride * stride);
  for (let a = 0; a < count; a++) out.set(matrix.subarray(a * count, (a + 1) * count), a * stride);
  return out;
}

function withRidge(products: Float32Array, stride: number, count: number): Float64Array {
  const gram = narrowed(products, stride, count);
  for (let a = 0; a < count; a++) gram[a * count + a] = gram[a * count + a]! * (1 + RIDGE);
  return gram;
}

function hasEnergy(values: Float32Array, pixels: Int32Array): boolean {
  for (const pixel of pixels) if (values[pixel] !== 0) return true;
  return false;
}

/** Of one coefficient, for noise of variance 1: an entry of G^-1 (X' A X) G^-1. */
function varianceOf(inverse: Float64Array, crossed: Float64Array, a: number, count: number): number {
  let sum = 0;
  for (let i = 0; i < count; i++) {
    let row = 0;
    for (let j = 0; j < count; j++) row += crossed[i * count + j]! * inverse[j * count + a]!;
    sum += inverse[a * count + i]! * row;
  }
  return sum;
}

/** Inverts a symmetric matrix whose diagonal is positive, by Cholesky's factors; rows that the others explain come out as zero. */
export function invert(matrix: Float64Array, count: number): Float64Array {
  const lower = new Float64Array(count * count);
  for (let a = 0; a < count; a++) {
    for (let b = 0; b <= a; b++) {
      let sum = matrix[a * count + b]!;
      for (let i = 0; i < b; i++) sum -= lower[a * count + i]! * lower[b * count + i]!;
      if (a > b) lower[a * count + b] = lower[b * count + b]! === 0 ? 0 : sum / lower[b * count + b]!;
      else lower[a * count + a] = sum > matrix[a * count + a]! * 1e-9 ? Math.sqrt(sum) : 0;
    }
  }
  // The inverse of the lower triangle, column by column.
  const back = new Float64Array(count * count);
  for (let column = 0; column < count; column++) {
    for (let a = column; a < count; a++) {
      if (lower[a * count + a] === 0) continue;
      let sum = a === column ? 1 : 0;
      for (let i = column; i < a; i++) sum -= lower[a * count + i]! * back[i * count + column]!;
      back[a * count + column] = sum / lower[a * count + a]!;
    }
  }
  const out = new Float64Array(count * count);
  for (let a = 0; a < count; a++) {
    for (let b = 0; b <= a; b++) {
      let sum = 0;
      for (let i = a; i < count; i++) sum += back[i * count + a]! * back[i * count + b]!;
      out[a * count + b] = out[b * count + a] = sum;
    }
  }
  return out;
}
