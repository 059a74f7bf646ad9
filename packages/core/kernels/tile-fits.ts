// The regressions of a strip's tiles: see noise.ts for what a strip is, and tile-columns.ts for how columns lie.
import { leavePlain, leaveSpread, roundAll, roundInverse } from './left-over';
import { at, factor, invert, MATRIX, ROW, solve } from './normal-equations';
import { COLUMN, OWN, TILE_LINE } from './tile-columns';

const TILE: usize = 16;
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

/**
 * Regresses a column of every tile of a strip on those before it, so that what they explain is not read as noise.
 * The high-pass colours noise, hence a column of noise takes more than one degree of freedom: what each pixel weighs in
 * its own fit is worked out with the columns spread by the high-pass's autocorrelation; and what the columns' own noise
 * adds is divided out.
 *
 * @param columns as `multiplyTiles` has them, or behind the first of those; `next` bytes before those of the next tile
 * @param target which column is explained, counted from the first
 * @param grams what `multiplyTiles` says of them: where the sums of the first of these columns stand in each matrix
 * @param spread the same columns, spread, `nextSpread` bytes before those of the next tile; 0 where no column has noise: each
 *   then takes one degree of freedom
 * @param every what pixels weigh is asked of each so many lines
 * @param mask of the pixels that are measured, two lines above the tiles
 * @param known for each column, addresses of up to two masks of its noisy pixels, 0 for none: 2 x 32 bits each
 * @param room for three matrices of 32 x 32 64-bit floats
 * @param squares at the lines of the tiles: of the residuals, corrected; not a number in tiles that say nothing
 * @param residuals likewise, before they are squared
 * @param variances one 64-bit float a tile: the mean of the squares
 * @param counts likewise: the pixels that are measured
 * @param joined likewise: further pixels that the sums are of, beside those of the tile
 * @param weights likewise: tiles of 0 are left as they are; 0 where all are fitted
 * @param first of the tiles that are fitted; `end` is behind the last
 */
export function fitTiles(
  columns: usize,
  next: usize,
  target: usize,
  grams: usize,
  spread: usize,
  nextSpread: usize,
  every: i32,
  count: usize,
  mask: usize,
  known: usize,
  line: usize,
  first: i32,
  end: i32,
  room: usize,
  squares: usize,
  residuals: usize,
  variances: usize,
  counts: usize,
  joined: usize,
  weights: usize,
): void {
  // Coefficients, as they are found and rounded; what squares become; a triangle or an inverse, and that rounded.
  const coefficients = room;
  const rounded = room + ROW;
  const became = room + 2 * ROW;
  const matrix = room + MATRIX;
  const inverse = room + 2 * MATRIX;
  variances += usize(first) * 8;
  counts += usize(first) * 8;
  joined += usize(first) * 8;
  for (let tile = first; tile < end; tile++, variances += 8, counts += 8, joined += 8) {
    if (weights && load<f64>(weights + usize(tile) * 8) == 0) continue;
    const left = usize(tile) * TILE_LINE;
    const own = columns + OWN + usize(tile) * next;
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
    const toSquares = squares + left;
    const toResiduals = residuals + left;
    if (spread == 0) {
      factor(gram, count, matrix);
      solve(matrix, count, at(gram, target, 0), coefficients);
      roundAll(coefficients, 8, count, rounded);
      const share = f32(used) / f32(fitted);
      store<f64>(variances, leavePlain(own, target * COLUMN, count, rounded, line, 1 - share, toSquares, toResiduals) / f64(pixels));
      continue;
    }
    invert(gram, count, at(gram, target, 0), matrix);
    roundAll(at(matrix, 0, count), ROW, count, rounded);
    roundInverse(matrix, count, inverse);
    const beside = spread + usize(tile) * nextSpread;
    const all = leaveSpread(own, target * COLUMN, beside, count, rounded, inverse, line, usize(every), toSquares, toResiduals, became);
    const mean = all / f64(pixels);
    let excess: f64 = 1;
    let counted: usize = 0;
    let many = 0;
    for (let a: usize = 0; a < count; a++) {
      let noisy = 0;
      for (let mask: usize = 0; mask < 8; mask += 4) {
        const lanes = usize(load<u32>(known + a * 8 + mask));
        if (lanes == 0) continue;
        // Columns beside each other are often of the same pixels.
        if (lanes != counted) many = countLanes(lanes + 2 * line + left, line);
        counted = lanes;
        noisy += many;
      }
      if (noisy == 0) continue;
      const coefficient = load<f64>(at(matrix, a, count));
      excess += (f64(noisy) / f64(pixels)) * (coefficient * coefficient - mean * COLOURED * load<f64>(at(matrix, a, a)));
    }
    excess = Math.max(1, excess);
    store<f64>(variances, mean / excess);
    const less = f32x4.splat(f32(load<f64>(became) / excess));
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
