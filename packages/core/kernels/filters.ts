import { shiftedUp } from './lanes';

/**
 * Undoes PNG's row filters (section 9.2 of the standard). Each row is a filter byte and `rowBytes` bytes; they come
 * out without the filter byte.
 *
 * @param rows `height` filtered rows, and 16 bytes that may be read
 * @param out room for `height` rows, and 16 bytes that may be overwritten; where `hasAbove` is 1 the row above
 *   stands before it
 * @returns -1, or the number of the first row whose filter PNG does not have
 */
export function unfilterRows(rows: usize, out: usize, rowBytes: i32, height: i32, bytesPerPixel: i32, hasAbove: i32): i32 {
  for (let row = 0; row < height; row++) {
    // Two rows of Paeth go side by side: each waits for its own last pixel alone.
    if (bytesPerPixel >= 3 && bytesPerPixel <= 8 && row + 1 < height && (row > 0 || hasAbove != 0)) {
      const first = rows + row * (rowBytes + 1);
      if (load<u8>(first) == 4 && load<u8>(first + rowBytes + 1) == 4) {
        addTwoPaeth(first + 1, out + row * rowBytes, rowBytes, bytesPerPixel);
        row++;
        continue;
      }
    }
    const here = rows + row * (rowBytes + 1) + 1;
    const to = out + row * rowBytes;
    const above = row > 0 || hasAbove != 0 ? to - rowBytes : 0;
    const filter = load<u8>(here - 1);
    // Without a row above, "up" adds nothing and Paeth always predicts from the left (section 9.4).
    if (filter == 0 || (filter == 2 && above == 0)) memory.copy(to, here, rowBytes);
    else if (filter == 1 || (filter == 4 && above == 0)) addLeft(here, to, rowBytes, bytesPerPixel);
    else if (filter == 2) addAbove(here, to, rowBytes, above);
    else if (filter == 3) addAverage(here, to, rowBytes, bytesPerPixel, above);
    else if (filter == 4) addPaeth(here, to, rowBytes, bytesPerPixel, above);
    else return row;
  }
  return -1;
}

/** As many pixels as fit into 16 bytes are summed up at once, and the last one is carried over. */
function addLeft(here: usize, to: usize, rowBytes: i32, bytesPerPixel: i32): void {
  const step = (16 / bytesPerPixel) * bytesPerPixel;
  const by1 = shiftedUp(bytesPerPixel);
  const by2 = shiftedUp(2 * bytesPerPixel);
  const by4 = shiftedUp(4 * bytesPerPixel);
  const by8 = shiftedUp(8 * bytesPerPixel);
  let last = i8x16.splat(0);
  for (let i = 0; i < 16; i++) store<u8>(lastPixel + i, u8(step - bytesPerPixel + (i % bytesPerPixel)));
  const fromLast = v128.load(lastPixel);
  for (let i = 0; i < rowBytes; i += step) {
    let sums = v128.load(here + i);
    sums = i8x16.add(sums, v128.swizzle(sums, by1));
    if (2 * bytesPerPixel < 16) sums = i8x16.add(sums, v128.swizzle(sums, by2));
    if (4 * bytesPerPixel < 16) sums = i8x16.add(sums, v128.swizzle(sums, by4));
    if (8 * bytesPerPixel < 16) sums = i8x16.add(sums, v128.swizzle(sums, by8));
    sums = i8x16.add(sums, last);
    v128.store(to + i, sums);
    last = v128.swizzle(sums, fromLast);
  }
}

const lastPixel = memory.data(16);

function addAbove(here: usize, to: usize, rowBytes: i32, above: usize): void {
  for (let i = 0; i < rowBytes; i += 16) v128.store(to + i, i8x16.add(v128.load(here + i), v128.load(above + i)));
}

function addAverage(here: usize, to: usize, rowBytes: i32, bytesPerPixel: i32, above: usize): void {
  if (above == 0 || bytesPerPixel < 3) {
    for (let i = 0; i < rowBytes; i++) {
      const left: u32 = i >= bytesPerPixel ? load<u8>(to + i - bytesPerPixel) : 0;
      const up: u32 = above != 0 ? load<u8>(above + i) : 0;
      store<u8>(to + i, u8(load<u8>(here + i) + ((left + up) >> 1)));
    }
    return;
  }
  const low = i16x8.splat(255);
  let left = i16x8.splat(0);
  for (let i = 0; i < rowBytes; i += bytesPerPixel) {
    const up = i16x8.extend_low_i8x16_u(v128.load64_zero(above + i));
    const filtered = i16x8.extend_low_i8x16_u(v128.load64_zero(here + i));
    left = v128.and(i16x8.add(filtered, i16x8.shr_u(i16x8.add(left, up), 1)), low);
    v128.store64_lane(to + i, i8x16.narrow_i16x8_u(left, left), 0);
  }
}

/** Section 9.4: of left, up and upper left the one closest to left + up - upper left; on a tie the first of them. */
function paeth(left: v128, up: v128, upperLeft: v128): v128 {
  const pa = i16x8.sub(up, upperLeft);
  const pb = i16x8.sub(left, upperLeft);
  const fromLeft = i16x8.abs(pa);
  const fromUp = i16x8.abs(pb);
  const fromUpperLeft = i16x8.abs(i16x8.add(pa, pb));
  const smallest = i16x8.min_s(i16x8.min_s(fromLeft, fromUp), fromUpperLeft);
  const upOrUpperLeft = v128.bitselect(up, upperLeft, i16x8.eq(smallest, fromUp));
  return v128.bitselect(left, upOrUpperLeft, i16x8.eq(smallest, fromLeft));
}

function addPaeth(here: usize, to: usize, rowBytes: i32, bytesPerPixel: i32, above: usize): void {
  if (bytesPerPixel < 3) {
    addNarrowPaeth(here, to, rowBytes, bytesPerPixel, above);
    return;
  }
  const low = i16x8.splat(255);
  let left = i16x8.splat(0);
  let upperLeft = i16x8.splat(0);
  for (let i = 0; i < rowBytes; i += bytesPerPixel) {
    const up = i16x8.extend_low_i8x16_u(v128.load64_zero(above + i));
    const filtered = i16x8.extend_low_i8x16_u(v128.load64_zero(here + i));
    left = v128.and(i16x8.add(filtered, paeth(left, up, upperLeft)), low);
    upperLeft = up;
    v128.store64_lane(to + i, i8x16.narrow_i16x8_u(left, left), 0);
  }
}

/**
 * Two rows at once, the lower one a pixel behind: what it needs from above has just been made.
 *
 * @param here the upper row; the lower one and its filter byte follow it
 * @param to where the upper row goes, behind the row above it
 */
function addTwoPaeth(here: usize, to: usize, rowBytes: i32, bytesPerPixel: i32): void {
  const low = i16x8.splat(255);
  const none = i16x8.splat(0);
  const above = to - rowBytes;
  const nextHere = here + rowBytes + 1;
  const nextTo = to + rowBytes;
  let up = i16x8.extend_low_i8x16_u(v128.load64_zero(above));
  let left = v128.and(i16x8.add(i16x8.extend_low_i8x16_u(v128.load64_zero(here)), paeth(none, up, none)), low);
  v128.store64_lane(to, i8x16.narrow_i16x8_u(left, left), 0);
  let upperLeft = up;
  let nextLeft = none;
  let nextUpperLeft = none;
  let i = bytesPerPixel;
  for (; i < rowBytes; i += bytesPerPixel) {
    const filtered = i16x8.extend_low_i8x16_u(v128.load64_zero(nextHere + i - bytesPerPixel));
    nextLeft = v128.and(i16x8.add(filtered, paeth(nextLeft, left, nextUpperLeft)), low);
    nextUpperLeft = left;
    up = i16x8.extend_low_i8x16_u(v128.load64_zero(above + i));
    left = v128.and(i16x8.add(i16x8.extend_low_i8x16_u(v128.load64_zero(here + i)), paeth(left, up, upperLeft)), low);
    upperLeft = up;
    // Eight bytes are stored: at its end the upper row would write over where the lower one begins.
    const kept = load<u64>(nextTo);
    v128.store64_lane(to + i, i8x16.narrow_i16x8_u(left, left), 0);
    if (i + 8 > rowBytes) store<u64>(nextTo, kept);
    v128.store64_lane(nextTo + i - bytesPerPixel, i8x16.narrow_i16x8_u(nextLeft, nextLeft), 0);
  }
  const filtered = i16x8.extend_low_i8x16_u(v128.load64_zero(nextHere + i - bytesPerPixel));
  nextLeft = v128.and(i16x8.add(filtered, paeth(nextLeft, left, nextUpperLeft)), low);
  v128.store64_lane(nextTo + i - bytesPerPixel, i8x16.narrow_i16x8_u(nextLeft, nextLeft), 0);
}

function addNarrowPaeth(here: usize, to: usize, rowBytes: i32, bytesPerPixel: i32, above: usize): void {
  for (let i = 0; i < rowBytes; i++) {
    const left: i32 = i >= bytesPerPixel ? load<u8>(to + i - bytesPerPixel) : 0;
    const up: i32 = load<u8>(above + i);
    const upperLeft: i32 = i >= bytesPerPixel ? load<u8>(above + i - bytesPerPixel) : 0;
    const fromLeft = abs(up - upperLeft);
    const fromUp = abs(left - upperLeft);
    const fromUpperLeft = abs(left + up - 2 * upperLeft);
    const predicted = fromLeft <= fromUp && fromLeft <= fromUpperLeft ? left : fromUp <= fromUpperLeft ? up : upperLeft;
    store<u8>(to + i, u8(load<u8>(here + i) + predicted));
  }
}

/** Turns each two bytes round; up to 15 bytes after them are turned round with them. */
export function swapShorts(at: usize, size: i32): void {
  for (let i = 0; i < size; i += 16) {
    const v = v128.load(at + i);
    v128.store(at + i, i8x16.shuffle(v, v, 1, 0, 3, 2, 5, 4, 7, 6, 9, 8, 11, 10, 13, 12, 15, 14));
  }
}
