import { MintError } from '../errors.ts';
import { formatFrameRange, FrameSet } from '../ranges/index.ts';
import { parseTimecode, type FrameRate } from '../timing/index.ts';

/** Raised when a text is no length of time. */
export class DurationError extends MintError {
  constructor(text: string, why: string) {
    super('duration', `“${text}” is not a duration: ${why}.`, {
      remedy: 'Write seconds such as 4 or 4.5, frames such as 96, or a timecode such as 00:00:04:00.',
    });
  }
}

/** A length in frames, and whether what was asked for is exactly that long. */
export interface FrameCount {
  readonly frames: number;
  readonly exact: boolean;
}

const LONGEST = 1_000_000;

/**
 * Frames that a number of seconds lasts. Seconds are read as a decimal fraction and multiplied
 * out in whole numbers, so 4 s at 24 are 96 frames and 0.1 s at 30000/1001 are not quite 3.
 *
 * @throws DurationError
 */
export function framesOfSeconds(text: string, rate: FrameRate): FrameCount {
  const match = /^(\d{1,7})(?:[.,](\d{1,6}))?$/.exec(text.trim());
  if (!match) throw new DurationError(text, 'seconds are a number');
  const places = match[2] ?? '';
  const scale = 10 ** places.length;
  // At most 13 digits times 6: beyond what a double holds exactly, so whole numbers without end.
  const wanted = BigInt(match[1] + places) * BigInt(rate.numerator);
  const unit = BigInt(scale) * BigInt(rate.denominator);
  const frames = Number((2n * wanted + unit) / (2n * unit));
  return { frames: checked(frames, text), exact: wanted % unit === 0n };
}

/** Frames that a duration written as a timecode counts. @throws TimecodeError, DurationError */
export function framesOfTimecode(text: string, rate: FrameRate): FrameCount {
  return { frames: checked(parseTimecode(text, rate), text), exact: true };
}

/** Frames of a duration written as seconds or as a timecode. @throws DurationError, TimecodeError */
export function framesOfDuration(text: string, rate: FrameRate): FrameCount {
  return text.includes(':') ? framesOfTimecode(text, rate) : framesOfSeconds(text, rate);
}

function checked(frames: number, text: string): number {
  if (frames < 1) throw new DurationError(text, 'it is shorter than one frame');
  if (frames > LONGEST) throw new DurationError(text, `it is longer than ${LONGEST.toLocaleString('en')} frames`);
  return frames;
}

/** Seconds that a number of frames lasts, for people: up to three decimals, none that say nothing. */
export function secondsOfFrames(frames: number, rate: FrameRate): string {
  return String(Number(((frames * rate.denominator) / rate.numerator).toFixed(3)));
}

/** The range that begins with a frame and has this many, every `step`-th. */
export function rangeOf(start: number, count: number, step = 1): string {
  return formatFrameRange(FrameSet.range(start, start + (count - 1) * step, step));
}

/**
 * Start, count and step of a set that has one step throughout; null for any other, which start and
 * duration cannot say.
 */
export function describeRun(frames: FrameSet): { start: number; count: number; step: number } | null {
  const { frames: values } = frames;
  if (values.length === 0) return null;
  const step = values.length > 1 ? values[1] - values[0] : 1;
  for (let i = 1; i < values.length; i++) if (values[i] - values[i - 1] !== step) return null;
  return { start: values[0], count: values.length, step };
}
