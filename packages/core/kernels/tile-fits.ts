// The regressions of a strip's tiles: see noise.ts for what a strip is.
import { sumOfFloats } from './lanes';
import { at, factor, invert, MATRIX, ROW, SIDE, solve } from './normal-equations';

const TILE: usize = 16;
/** Bytes of a line of a tile. */
const TILE_LINE: usize = 64;
/** Along edges few pixels carry both noise and fit. Believed further, their noise is found, but so is what leaks of mirrors. */
const MOST_LEVERAGE: f32 = 0.7;
/**
 * What a coefficient of a noisy column varies by, over what it would in noise that the high-pass had not coloured: up to 3.8
 * where the columns are nothing but noise, less where there is structure in them. Worked out for each tile it would cost as
 * much as the fit itself, and tells no more of frames whose noise is known.
 */
const COLOURED: f64 = 3;
/** Fewer pixels than columns and this many say nothing. */
const LEAST_FREEDOM: i32 = 8;
/**
 * Where columns have noise, each takes several degrees of freedom: of sixteen pixels in two lines eight columns leave a tenth of
 * what is noise, of thirty-two and more they leave it.
 */
const LEAST_OF_NOISY: i32 = 32;

/** Pixels of a tile whose lanes are set. */
function countLanes(lanes: usize, line: usize): i32 {
  let sum = i32x4.splat(0);
  for (let y: usize = 0; y < TILE; y++, lanes += line) for (let x: usize = 0; x < TILE_LINE; x += 16) sum = i32x4.sub(sum, v128.load(lanes + x));
  return i32x4.extract_lane(sum, 0) + i32x4.extract_lane(sum, 1) + i32x4.extract_lane(sum, 2) + i32x4.extract_lane(sum, 3);
}

/** Each coefficient in all lanes of a vector. */
function splatAll(coefficients: usize, count: usize, out: usize): void {
  for (let a: usize = 0; a < count; a++) v128.store(out + a * 16, f32x4.splat(f32(load<f64>(coefficients + a * 8))));
}

/** Four pixels less what their columns explain. @param target bytes from the first column to the one that is explained */
function residualOf(pixel: usize, plane: usize, target: usize, count: usize, splats: usize): v128 {
  let left = v128.load(pixel + target);
  for (let a: usize = 0; a < count; a++, pixel += plane) left = f32x4.sub(left, f32x4.mul(v128.load(pixel), v128.load(splats + a * 16)));
  return left;
}

/** Residuals of a tile and their squares, each over the same share of freedom; the sum of the squares. */
function leavePlain(
  own: usize,
  plane: usize,
  target: usize,
  count: usize,
  coefficients: usize,
  splats: usize,
  line: usize,
  freedom: f32,
  squares: usize,
  residuals: usize,
): f64 {
  splatAll(coefficients, count, splats);
  const scale = f32x4.splat(1 / freedom);
  let sum: f64 = 0;
  for (let y: usize = 0; y < TILE; y++) {
    for (let x: usize = 0; x < TILE_LINE; x += 16) {
      const left = residualOf(own + y * line + x, plane, target, count, splats);
      const square = f32x4.mul(f32x4.mul(left, left), scale);
      v128.store(residuals + y * line + x, left);
      v128.store(squares + y * line + x, square);
      sum += sumOfFloats(square);
    }
  }
  return sum;
}

/** What `leaveSpread` says beside its sum: what the squares of the pixels that were asked became by it, over what they were. */
let became: f64 = 1;

/**
 * The same, each pixel over the freedom that its weight in its own fit leaves.
 *
 * @param every that is asked of the pixels of each so many lines; of more than one, all squares are to be multiplied with
 *   what those of the lines that were asked became
 */
function leaveSpread(
  own: usize,
  plane: usize,
  target: usize,
  beside: usize,
  spreadPlane: usize,
  count: usize,
  coefficients: usize,
  inverse: usize,
  splats: usize,
  line: usize,
  every: usize,
  squares: usize,
  residuals: usize,
): f64 {
  splatAll(coefficients, count, splats);
  // Behind the coefficients, four columns of the inverse at a time.
  const weights = splats + SIDE * 16;
  const filled = (count + 3) & ~3;
  for (let a: usize = 0; a < filled; a++)
    for (let b: usize = 0; b < count; b++)
      v128.store(weights + ((a >> 2) * count + b) * 64 + (a & 3) * 16, f32x4.splat(a < count ? f32(load<f64>(at(inverse, a, b))) : 0));
  let all: f64 = 0;
  let asked: f64 = 0;
  let freed: f64 = 0;
  for (let y: usize = 0; y < TILE; y++) {
    const isAsked = y % every == every >> 1;
    for (let x: usize = 0; x < TILE_LINE; x += 16) {
      const pixel = own + y * line + x;
      const left = residualOf(pixel, plane, target, count, splats);
      let square = f32x4.mul(left, left);
      if (isAsked) {
        const freedom = f32x4.sub(f32x4.splat(1), leverageOf(pixel, plane, beside + y * line + x, spreadPlane, count, weights));
        const over = f32x4.div(square, freedom);
        asked += sumOfFloats(square);
        freed += sumOfFloats(over);
        if (every == 1) square = over;
      }
      v128.store(residuals + y * line + x, left);
      v128.store(squares + y * line + x, square);
      all += sumOfFloats(square);
    }
  }
  became = every > 1 && asked > 0 ? freed / asked : 1;
  return all * became;
}

/** What four pixels weigh in their own fit, as far as it is believed. @param weights the inverse, four columns at a time */
function leverageOf(pixel: usize, plane: usize, spread: usize, spreadPlane: usize, count: usize, weights: usize): v128 {
  let leverage = f32x4.splat(0);
  for (let a: usize = 0; a < count; a += 4) {
    let p0 = f32x4.splat(0);
    let p1 = f32x4.splat(0);
    let p2 = f32x4.splat(0);
    let p3 = f32x4.splat(0);
    for (let b: usize = 0; b < count; b++, weights += 64) {
      const value = v128.load(spread + b * spreadPlane);
      p0 = f32x4.add(p0, f32x4.mul(v128.load(weights), value));
      p1 = f32x4.add(p1, f32x4.mul(v128.load(weights, 16), value));
      p2 = f32x4.add(p2, f32x4.mul(v128.load(weights, 32), value));
      p3 = f32x4.add(p3, f32x4.mul(v128.load(weights, 48), value));
    }
    const columns = pixel + a * plane;
    leverage = f32x4.add(leverage, f32x4.mul(p0, v128.load(columns)));
    leverage = f32x4.add(leverage, f32x4.mul(p1, v128.load(columns + plane)));
    leverage = f32x4.add(leverage, f32x4.mul(p2, v128.load(columns + 2 * plane)));
    leverage = f32x4.add(leverage, f32x4.mul(p3, v128.load(columns + 3 * plane)));
  }
  return f32x4.min(f32x4.max(leverage, f32x4.splat(0)), f32x4.splat(MOST_LEVERAGE));
}

/**
 * Regresses the last column of every tile of a strip on those before it, so that what they explain is not read as noise.
 * The high-pass colours noise, hence a column of noise takes more than one degree of freedom: what each pixel weighs in
 * its own fit is worked out with the columns spread by the high-pass's autocorrelation; and what the columns' own noise
 * adds is divided out.
 *
 * @param columns as `multiplyTiles` has them, or behind the first of those
 * @param target which column is explained, counted from the first
 * @param grams what `multiplyTiles` says of them: where the sums of the first of these columns stand in each matrix
 * @param spread the same at the lines of the tiles alone, `spreadPlane` bytes from each other; 0 where no column has
 *   noise: each then takes one degree of freedom
 * @param every what pixels weigh is asked of each so many lines
 * @param mask of the pixels that are measured, two lines above the tiles
 * @param known for each column, addresses of up to two masks of its noisy pixels, 0 for none: 2 x 32 bits each
 * @param room for seven matrices of 32 x 32 64-bit floats
 * @param squares at the lines of the tiles: of the residuals, corrected; not a number in tiles that say nothing
 * @param residuals likewise, before they are squared
 * @param variances one 64-bit float a tile: the mean of the squares
 * @param counts likewise: the pixels that are measured
 * @param joined likewise: further pixels that the sums are of, beside those of the tile
 * @param weights likewise: tiles of 0 are left as they are; 0 where all are fitted
 */
export function fitTiles(
  columns: usize,
  plane: usize,
  target: usize,
  grams: usize,
  spread: usize,
  spreadPlane: usize,
  every: i32,
  count: usize,
  mask: usize,
  known: usize,
  line: usize,
  tiles: i32,
  room: usize,
  squares: usize,
  residuals: usize,
  variances: usize,
  counts: usize,
  joined: usize,
  weights: usize,
): void {
  const coefficients = room;
  const splats = coefficients + ROW;
  const lower = room + 4 * MATRIX;
  const inverseRoom = room + 5 * MATRIX;
  for (let tile = 0; tile < tiles; tile++, variances += 8, counts += 8, joined += 8) {
    if (weights && load<f64>(weights + usize(tile) * 8) == 0) continue;
    const left = usize(tile) * TILE_LINE;
    const own = columns + 2 * line + left;
    const gram = grams + usize(tile) * MATRIX;
    let used: i32 = 0;
    for (let a: usize = 0; a < count; a++) if (load<f64>(at(gram, a, a)) > 0) used++;
    const pixels = countLanes(mask + 2 * line + left, line);
    store<f64>(counts, f64(pixels));
    const fitted = pixels + i32(load<f64>(joined));
    if (pixels == 0 || fitted < used + LEAST_FREEDOM || (spread != 0 && fitted < max(LEAST_OF_NOISY, 2 * used))) {
      store<f64>(variances, NaN);
      for (let y: usize = 0; y < TILE; y++) {
        for (let x: usize = 0; x < TILE_LINE; x += 16) {
          v128.store(squares + y * line + left + x, f32x4.splat(NaN));
          v128.store(residuals + y * line + left + x, f32x4.splat(0));
        }
      }
      continue;
    }
    factor(gram, count, lower);
    solve(lower, count, at(gram, target, 0), coefficients);
    const toSquares = squares + left;
    const toResiduals = residuals + left;
    if (spread == 0) {
      const share = f32(used) / f32(fitted);
      store<f64>(variances, leavePlain(own, plane, target * plane, count, coefficients, splats, line, 1 - share, toSquares, toResiduals) / f64(pixels));
      continue;
    }
    const inverse = invert(lower, count, inverseRoom);
    const beside = spread + left;
    const all = leaveSpread(own, plane, target * plane, beside, spreadPlane, count, coefficients, inverse, splats, line, usize(every), toSquares, toResiduals);
    const mean = all / f64(pixels);
    let excess: f64 = 1;
    for (let a: usize = 0; a < count; a++) {
      let noisy = 0;
      for (let mask: usize = 0; mask < 8; mask += 4) {
        const lanes = usize(load<u32>(known + a * 8 + mask));
        if (lanes) noisy += countLanes(lanes + 2 * line + left, line);
      }
      if (noisy == 0) continue;
      const coefficient = load<f64>(coefficients + a * 8);
      excess += (f64(noisy) / f64(pixels)) * (coefficient * coefficient - mean * COLOURED * load<f64>(at(inverse, a, a)));
    }
    excess = Math.max(1, excess);
    store<f64>(variances, mean / excess);
    const less = f32x4.splat(f32(became / excess));
    for (let y: usize = 0; y < TILE; y++)
      for (let x: usize = 0; x < TILE_LINE; x += 16) v128.store(toSquares + y * line + x, f32x4.mul(v128.load(toSquares + y * line + x), less));
  }
}

/** Brings squares of some tiles so far towards others as each tile's weight says: at 1 they are these. */
export function mixTiles(squares: usize, others: usize, line: usize, tiles: i32, weights: usize): void {
  for (let tile = 0; tile < tiles; tile++, squares += TILE_LINE, others += TILE_LINE, weights += 8) {
    const weight = f32x4.splat(f32(load<f64>(weights)));
    if (load<f64>(weights) == 0) continue;
    for (let y: usize = 0; y < TILE; y++) {
      for (let x: usize = 0; x < TILE_LINE; x += 16) {
        const at = y * line + x;
        const square = v128.load(squares + at);
        v128.store(squares + at, f32x4.add(square, f32x4.mul(weight, f32x4.sub(v128.load(others + at), square))));
      }
    }
  }
}
