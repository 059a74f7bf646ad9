// What is regressed, tile by tile: all columns of a tile lie side by side, so that the sums over it, and what its columns
// leave, are read from a few kilobytes. A column is 20 lines of 16 pixels: those of the tile, and two above and below it.

/** Bytes of a line of a tile. */
export const TILE_LINE: usize = 64;
/** Bytes from one of a tile's columns to the next, and to the first of its own lines. */
export const COLUMN: usize = 20 * TILE_LINE;
export const OWN: usize = 2 * TILE_LINE;
/** Bytes of the lines of a tile alone, which are all that a column has that is spread. */
export const TILE_BYTES: usize = 16 * TILE_LINE;

/** Second differences of four values with those beside them. */
function bendAcross(at: usize): v128 {
  return f32x4.sub(f32x4.add(v128.load(at - 4), v128.load(at + 4)), f32x4.mul(v128.load(at), f32x4.splat(2)));
}

/**
 * The high-pass [1 -2 1] x [1 -2 1] / 6 of a strip (see noise.ts), where a mask is set; zero elsewhere.
 *
 * @param raw a line above and one below what is written, `line` bytes from each other, with zeros behind each
 * @param out the column's first line that is written, of the first tile
 * @param less where it is added to what a column holds: a column for what that was without it; else 0
 * @param next bytes from one tile to the next
 */
export function highPassColumn(raw: usize, line: usize, rows: i32, mask: usize, tiles: i32, out: usize, less: usize, next: usize): void {
  const two = f32x4.splat(2);
  const scale = f32x4.splat(1.0 / 6.0);
  for (let tile = 0; tile < tiles; tile++, raw += TILE_LINE, mask += TILE_LINE, out += next, less += less ? next : 0) {
    for (let x: usize = 0; x < TILE_LINE; x += 16) {
      let told = mask + x;
      let below = raw + x + 2 * line;
      let before = bendAcross(raw + x);
      let here = bendAcross(raw + x + line);
      for (let at = x; at < x + usize(rows) * TILE_LINE; at += TILE_LINE, told += line, below += line) {
        const after = bendAcross(below);
        const sum = f32x4.sub(f32x4.add(before, after), f32x4.mul(here, two));
        let value = v128.and(f32x4.mul(sum, scale), v128.load(told));
        if (less) {
          const other = v128.load(out + at);
          v128.store(less + at, f32x4.sub(other, value));
          value = f32x4.add(other, value);
        }
        v128.store(out + at, value);
        before = here;
        here = after;
      }
    }
  }
}

/** The Laplacian [0 -1 0; -1 4 -1; 0 -1 0] / sqrt 20 likewise, of one column alone. */
export function laplacianColumn(raw: usize, line: usize, rows: i32, mask: usize, tiles: i32, out: usize, less: usize, next: usize): void {
  const scale = f32x4.splat(0.22360679775);
  for (let tile = 0; tile < tiles; tile++, raw += TILE_LINE, mask += TILE_LINE, out += next) {
    let told = mask;
    let from = raw + line;
    for (let to = out; to < out + usize(rows) * TILE_LINE; to += TILE_LINE, told += line, from += line) {
      for (let x: usize = 0; x < TILE_LINE; x += 16) {
        const at = from + x;
        const around = f32x4.add(f32x4.add(v128.load(at - line), v128.load(at + line)), f32x4.add(v128.load(at - 4), v128.load(at + 4)));
        const sum = f32x4.sub(f32x4.mul(v128.load(at), f32x4.splat(4)), around);
        v128.store(to + x, v128.and(f32x4.mul(sum, scale), v128.load(told + x)));
      }
    }
  }
}

/** [1 -4 6 -4 1] of four values and those two lines above and below. */
function spreadDown(at: usize): v128 {
  const near = f32x4.add(v128.load(at - TILE_LINE), v128.load(at + TILE_LINE));
  const far = f32x4.add(v128.load(at - 2 * TILE_LINE), v128.load(at + 2 * TILE_LINE));
  return f32x4.sub(f32x4.add(f32x4.mul(v128.load(at), f32x4.splat(6)), far), f32x4.mul(near, f32x4.splat(4)));
}

/**
 * [1 -4 6 -4 1] both ways / 36 of the lines of tiles: what the high-pass does to the correlation of noise.
 *
 * @param column of the first tile, `next` bytes before that of the next
 * @param every of each so many lines, from the middle of the first on
 * @param out like `column`, of columns that are spread, `nextOut` bytes from each other
 */
export function spreadColumn(column: usize, next: usize, tiles: i32, every: i32, out: usize, nextOut: usize): void {
  const none = f32x4.splat(0);
  const six = f32x4.splat(6);
  const four = f32x4.splat(4);
  const scale = f32x4.splat(1.0 / 36.0);
  for (let tile = 0, own = column + OWN; tile < tiles; tile++, own += next, out += nextOut) {
    for (let y = usize(every >> 1) * TILE_LINE; y < TILE_BYTES; y += usize(every) * TILE_LINE) {
      const at = own + y;
      // Beside the first and the last tile is nothing.
      let before = tile > 0 ? spreadDown(at - next + TILE_LINE - 16) : none;
      let here = spreadDown(at);
      for (let x: usize = 0; x < TILE_LINE; x += 16) {
        const after = x + 16 < TILE_LINE ? spreadDown(at + x + 16) : tile + 1 < tiles ? spreadDown(at + next) : none;
        const near = f32x4.add(i32x4.shuffle(before, here, 3, 4, 5, 6), i32x4.shuffle(here, after, 1, 2, 3, 4));
        const far = f32x4.add(i32x4.shuffle(before, here, 2, 3, 4, 5), i32x4.shuffle(here, after, 2, 3, 4, 5));
        const sum = f32x4.sub(f32x4.add(f32x4.mul(here, six), far), f32x4.mul(near, four));
        v128.store(out + y + x, f32x4.mul(sum, scale));
        before = here;
        here = after;
      }
    }
  }
}

/** Lays the lines of tiles out as a strip has them. @param column of the first tile, `next` bytes before that of the next */
export function layOutColumn(column: usize, next: usize, tiles: i32, line: usize, out: usize): void {
  for (let tile = 0, own = column + OWN; tile < tiles; tile++, own += next, out += TILE_LINE)
    for (let y: usize = 0; y < 16; y++) memory.copy(out + y * line, own + y * TILE_LINE, TILE_LINE);
}
