/**
 * How a frame number is written. `hash` pads the digits to `width` and puts the sign before them
 * (-0005); `printf` follows C, where the sign counts into the width (-005).
 */
export interface Padding {
  readonly style: 'hash' | 'printf';
  readonly width: number;
}

/** Writes a frame number with its padding. A number longer than the padding is written whole. */
export function formatFrameNumber(frame: number, padding: Padding): string {
  const digits = String(Math.abs(frame));
  if (frame >= 0) return digits.padStart(padding.width, '0');
  return '-' + digits.padStart(padding.style === 'printf' ? padding.width - 1 : padding.width, '0');
}

/** The token that stands for the frame number in a pattern: `####` or `%04d`. */
export function formatPaddingToken(padding: Padding): string {
  if (padding.style === 'hash') return '#'.repeat(Math.max(1, padding.width));
  return padding.width > 1 ? `%0${padding.width}d` : '%d';
}

/**
 * Finds the padding that most of the written numbers follow; where several do as well, the widest
 * (1001 to 1096 is padding 4, not 1).
 *
 * @param written the digits as they stand in the file names, without signs
 */
export function inferPadding(written: Iterable<string>): Padding {
  const countByLength = new Map<number, number>();
  const naturalByLength = new Map<number, number>();
  for (const digits of written) {
    countByLength.set(digits.length, (countByLength.get(digits.length) ?? 0) + 1);
    if (digits.length === 1 || digits[0] !== '0') {
      naturalByLength.set(digits.length, (naturalByLength.get(digits.length) ?? 0) + 1);
    }
  }
  let best = { width: 1, conforming: -1 };
  for (const width of [...countByLength.keys()].sort((a, b) => a - b)) {
    let conforming = countByLength.get(width) ?? 0;
    for (const [length, natural] of naturalByLength) if (length > width) conforming += natural;
    if (conforming >= best.conforming) best = { width, conforming };
  }
  return { style: 'hash', width: best.width };
}
