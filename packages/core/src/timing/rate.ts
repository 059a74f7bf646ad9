import { MintError } from '../errors.ts';

/** A frame rate as an exact fraction in lowest terms, in frames a second. */
export interface FrameRate {
  readonly numerator: number;
  readonly denominator: number;
}

/** Raised when a text is not a frame rate. */
export class FrameRateError extends MintError {
  constructor(text: string, why: string) {
    super('frame-rate', `“${text}” is not a frame rate: ${why}.`, {
      remedy: 'Write a number or a fraction, such as 24, 23.976 or 24000/1001.',
    });
  }
}

const MAXIMUM_RATE = 1000;
const MAXIMUM_TERM = 1_000_000;

/**
 * Reads a frame rate: an integer, a fraction, or a decimal. Decimals that people write for the
 * NTSC family (23.976, 23.98, 29.97, 59.94, …) become the exact n·1000/1001 that they stand for
 * (SMPTE ST 12-1); other decimals are taken as they are.
 *
 * @throws FrameRateError
 */
export function parseFrameRate(text: string): FrameRate {
  const trimmed = text.trim();
  const fraction = /^(\d{1,9})\s*\/\s*(\d{1,9})$/.exec(trimmed);
  if (fraction) return makeRate(Number(fraction[1]), Number(fraction[2]), text);
  const decimal = /^(\d{1,4})(?:\.(\d{1,6}))?$/.exec(trimmed);
  if (!decimal) throw new FrameRateError(text, 'it is neither a number nor a fraction');
  const places = decimal[2] ?? '';
  if (Number(places) === 0) return makeRate(Number(decimal[1]), 1, text);
  const whole = Number(decimal[1]) + 1;
  const written = Number(trimmed);
  const ntsc = (whole * 1000) / 1001;
  // Two or three decimals of the true value: 23.98 and 23.976 both mean 24000/1001.
  if (whole % 6 === 0 && places.length >= 2 && Math.abs(written - ntsc) <= 0.5 * 10 ** -places.length + 1e-9) {
    return makeRate(whole * 1000, 1001, text);
  }
  return makeRate(Number(decimal[1] + places), 10 ** places.length, text);
}

function makeRate(numerator: number, denominator: number, text: string): FrameRate {
  if (numerator === 0) throw new FrameRateError(text, 'at 0 frames a second nothing moves');
  if (denominator === 0) throw new FrameRateError(text, 'its denominator is 0');
  const divisor = greatestCommonDivisor(numerator, denominator);
  const rate = { numerator: numerator / divisor, denominator: denominator / divisor };
  if (rate.numerator / rate.denominator > MAXIMUM_RATE) {
    throw new FrameRateError(text, `it is over ${MAXIMUM_RATE} frames a second`);
  }
  if (rate.numerator > MAXIMUM_TERM || rate.denominator > MAXIMUM_TERM) {
    throw new FrameRateError(text, 'its terms are too large');
  }
  return rate;
}

function greatestCommonDivisor(a: number, b: number): number {
  while (b !== 0) [a, b] = [b, a % b];
  return a;
}

/** Writes a rate for people: 24, 23.976, 12.5; a fraction where a decimal would hide something. */
export function formatFrameRate(rate: FrameRate): string {
  const value = rate.numerator / rate.denominator;
  if (rate.denominator === 1) return String(rate.numerator);
  if (rate.denominator === 1001) return value.toFixed(3).replace(/0+$/, '');
  const decimal = String(Number(value.toFixed(4)));
  return Number(decimal) === value ? decimal : `${rate.numerator}/${rate.denominator}`;
}

/** How long a number of frames lasts, in seconds. */
export function durationSeconds(frameCount: number, rate: FrameRate): number {
  return (frameCount * rate.denominator) / rate.numerator;
}
