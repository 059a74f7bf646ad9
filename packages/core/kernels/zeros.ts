// Where a picture is exactly zero in every channel: a byte a pixel is marked, one array of samples after the other,
// and stretches of marks are read off line by line.

/**
 * Marks pixels that are zero: all `pixelBytes` of them, but for the bits that `mask` leaves out (a minus zero is zero).
 *
 * @param map a byte a pixel; 1 where zero. What is not 1 there already stays as it is, but for the `first` array
 * @param mask of 32 bits, over the samples as they stand
 */
export function markZeros(data: usize, pixels: i32, pixelBytes: i32, mask: u32, map: usize, first: i32): void {
  if (pixelBytes == 2) return markShorts(data, pixels, mask, map, first);
  if (pixelBytes == 4) return markWords(data, pixels, mask, map, first);
  const wide = (u64(mask) << 32) | mask;
  for (let i = 0; i < pixels; i++) {
    if (!first && !load<u8>(map + i)) continue;
    const at = data + i * pixelBytes;
    let some: u64 = 0;
    let b = 0;
    for (; b + 8 <= pixelBytes; b += 8) some |= load<u64>(at + b) & wide;
    for (; b < pixelBytes; b++) some |= u64(load<u8>(at + b)) & ((wide >> ((b & 7) << 3)) & 0xff);
    store<u8>(map + i, some == 0 ? 1 : 0);
  }
}

const ONES = i8x16.splat(1);

function put(map: usize, zeros: v128, first: i32): void {
  const marks = v128.and(zeros, ONES);
  v128.store(map, first ? marks : v128.and(marks, v128.load(map)));
}

/** Pixels of two bytes, sixteen at a time. */
function markShorts(data: usize, pixels: i32, mask: u32, map: usize, first: i32): void {
  const wanted = i32x4.splat(mask);
  const none = i16x8.splat(0);
  for (let i = 0; i < pixels; i += 16) {
    const a = i16x8.eq(v128.and(v128.load(data + 2 * i), wanted), none);
    const b = i16x8.eq(v128.and(v128.load(data + 2 * i, 16), wanted), none);
    put(map + i, i8x16.narrow_i16x8_s(a, b), first);
  }
}

/** Pixels of four bytes, sixteen at a time. */
function markWords(data: usize, pixels: i32, mask: u32, map: usize, first: i32): void {
  const wanted = i32x4.splat(mask);
  const none = i32x4.splat(0);
  for (let i = 0; i < pixels; i += 16) {
    const at = data + 4 * i;
    const a = i32x4.eq(v128.and(v128.load(at), wanted), none);
    const b = i32x4.eq(v128.and(v128.load(at, 16), wanted), none);
    const c = i32x4.eq(v128.and(v128.load(at, 32), wanted), none);
    const d = i32x4.eq(v128.and(v128.load(at, 48), wanted), none);
    put(map + i, i8x16.narrow_i16x8_s(i16x8.narrow_i32x4_s(a, b), i16x8.narrow_i32x4_s(c, d)), first);
  }
}

/**
 * Reads stretches of marked pixels off the lines of a map.
 *
 * @param least shorter ones are specks
 * @param most a line with more of them has no clean edges: it gives one stretch from -1 to -1
 * @param out line, first and last pixel of each stretch, of 32 bits; room for `most` a line
 * @returns how many stretches
 */
export function zeroRuns(map: usize, width: i32, height: i32, least: i32, most: i32, out: usize): i32 {
  let count = 0;
  for (let y = 0; y < height; y++) {
    const row = map + y * width;
    const before = count;
    for (let x = 0; x < width;) {
      // Eight pixels without a mark are passed over together, eight marked ones as well.
      while (x + 8 <= width && load<u64>(row + x) == 0) x += 8;
      while (x < width && !load<u8>(row + x)) x++;
      if (x >= width) break;
      const start = x;
      while (x + 8 <= width && load<u64>(row + x) == EIGHT_MARKS) x += 8;
      while (x < width && load<u8>(row + x)) x++;
      if (x - start < least) continue;
      if (count - before == most) {
        count = before;
        put3(out, count++, y, -1, -1);
        break;
      }
      put3(out, count++, y, start, x - 1);
    }
  }
  return count;
}

/** Eight marked pixels side by side. */
const EIGHT_MARKS: u64 = (u64(0x01010101) << 32) | 0x01010101;

function put3(out: usize, place: i32, y: i32, start: i32, end: i32): void {
  const at = out + place * 12;
  store<i32>(at, y);
  store<i32>(at, start, 4);
  store<i32>(at, end, 8);
}
