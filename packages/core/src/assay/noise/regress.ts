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
  const x = gather(
    used.map((i) => columns[i]!.values),
    pixels,
    null,
  );
  const spreadX =
    spread &&
    gather(
      used.map((i) => spread[i]!),
      pixels,
      null,
    );
  const weighted = weights
    ? gather(
        used.map((i) => columns[i]!.values),
        pixels,
        weights,
      )
    : x;
  const gram = crossProducts(weighted, x, n, count, true);
  const right = new Float64Array(count);
  for (let p = 0; p < n; p++) {
    const z = target[pixels[p]!]!;
    for (let a = 0; a < count; a++) right[a] = right[a]! + weighted[p * count + a]! * z;
  }
  for (let a = 0; a < count; a++) gram[a * count + a] = gram[a * count + a]! * (1 + RIDGE);
  const inverse = invert(gram, count);
  const coefficients = new Float64Array(count);
  for (let a = 0; a < count; a++) for (let b = 0; b < count; b++) coefficients[a] = coefficients[a]! + inverse[a * count + b]! * right[b]!;
  let sum = 0;
  for (let p = 0, at = 0; p < n; p++, at += count) {
    const pixel = pixels[p]!;
    let residual = target[pixel]!;
    for (let a = 0; a < count; a++) residual -= coefficients[a]! * x[at + a]!;
    const leverage = spreadX ? leverageOf(x, spreadX, inverse, at, count) : count / n;
    const square = (residual * residual) / (1 - Math.min(MOST_LEVERAGE, Math.max(0, leverage)));
    squares[pixel] = square;
    residuals[pixel] = residual;
    sum += square;
  }
  const mean = sum / n;
  if (!spreadX) return { variance: mean, excess: 1 };
  const crossed = crossProducts(weighted, spreadX, n, count, false);
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

/** The columns' values at the pixels, one pixel after the other. */
function gather(planes: readonly Float32Array[], pixels: Int32Array, weights: Float32Array | null): Float64Array {
  const count = planes.length;
  const out = new Float64Array(pixels.length * count);
  planes.forEach((plane, a) => {
    for (let p = 0; p < pixels.length; p++) out[p * count + a] = plane[pixels[p]!]! * (weights ? weights[pixels[p]!]! : 1);
  });
  return out;
}

/** Sums over pixels of the products of every two columns. */
function crossProducts(a: Float64Array, b: Float64Array, n: number, count: number, isSymmetric: boolean): Float64Array {
  const sums = new Float64Array(count * count);
  for (let at = 0; at < n * count; at += count) {
    for (let i = 0; i < count; i++) {
      const value = a[at + i]!;
      const row = i * count;
      const last = isSymmetric ? i : count - 1;
      for (let j = 0; j <= last; j++) sums[row + j] = sums[row + j]! + value * b[at + j]!;
    }
  }
  if (isSymmetric) for (let i = 0; i < count; i++) for (let j = i + 1; j < count; j++) sums[i * count + j] = sums[j * count + i]!;
  return sums;
}

function leverageOf(x: Float64Array, spread: Float64Array, inverse: Float64Array, at: number, count: number): number {
  let sum = 0;
  for (let a = 0; a < count; a++) {
    let row = 0;
    for (let b = 0; b < count; b++) row += inverse[a * count + b]! * spread[at + b]!;
    sum += x[at + a]! * row;
  }
  return sum;
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
