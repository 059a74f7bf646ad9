// The two-dimensional Haar wavelet of piz (OpenEXR, ImfWav), undone.

/** Mean and difference become the two values that they were made from. */
function joinPlain(meanAt: usize, differenceAt: usize): void {
  const difference = i32(load<i16>(differenceAt));
  const a = i32(load<i16>(meanAt)) + (difference & 1) + (difference >> 1);
  store<u16>(meanAt, u16(a));
  store<u16>(differenceAt, u16(a - difference));
}

/** The same modulo 65536, where differences use all 16 bits. */
function joinModulo(meanAt: usize, differenceAt: usize): void {
  const difference = i32(load<u16>(differenceAt));
  const b = (i32(load<u16>(meanAt)) - (difference >> 1)) & 0xffff;
  store<u16>(differenceAt, u16(b));
  store<u16>(meanAt, u16(difference + b - 0x8000));
}

function join(plain: bool, meanAt: usize, differenceAt: usize): void {
  if (plain) joinPlain(meanAt, differenceAt);
  else joinModulo(meanAt, differenceAt);
}

/**
 * Undoes the wavelet of one picture of 16-bit values.
 *
 * @param across values in a line, `stepX` values apart; `lines` of them, `stepY` values apart
 * @param plain whether differences fit 16 bits with their sign
 */
export function undoWavelet(data: usize, across: i32, stepX: i32, lines: i32, stepY: i32, plain: bool): void {
  const smaller = min(across, lines);
  let p = 1;
  while (p <= smaller) p <<= 1;
  p >>= 1;
  let p2 = p;
  p >>= 1;
  for (; p >= 1; p2 = p, p >>= 1) {
    const x1 = usize(stepX * p * 2);
    const y1 = usize(stepY * p * 2);
    const x2 = usize(stepX * p2 * 2);
    const y2 = usize(stepY * p2 * 2);
    let y = data;
    const endY = data + usize(stepY * (lines - p2) * 2);
    for (; y <= endY; y += y2) {
      let x = y;
      const endX = y + usize(stepX * (across - p2) * 2);
      for (; x <= endX; x += x2) {
        join(plain, x, x + y1);
        join(plain, x + x1, x + x1 + y1);
        join(plain, x, x + x1);
        join(plain, x + y1, x + y1 + x1);
      }
      if (across & p) join(plain, x, x + y1);
    }
    if (lines & p) {
      const endX = y + usize(stepX * (across - p2) * 2);
      for (let x = y; x <= endX; x += x2) join(plain, x, x + x1);
    }
  }
}

/** Looks values up in a table of 65,536 of 16 bits, in place. */
export function lookUp(data: usize, count: i32, table: usize): void {
  for (let i = 0; i < count; i++) store<u16>(data + 2 * i, load<u16>(table + 2 * usize(load<u16>(data + 2 * i))));
}
