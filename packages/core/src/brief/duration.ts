import { MintError } from '../errors.ts';
import { formatFrameRange, FrameSet, parseFrameRange } from '../ranges/index.ts';
import { parseTimecode, type FrameRate } from '../timing/index.ts';

/** Raised when a text is no length of time. */
export class DurationError extends MintError {
  constructor(text: string, why: string) {
    super('duration', `“${text}” is not a duration: ${why}.`, {
      remedy: 'Write seconds such as 10 s, frames such as 240, or a timecode such as 00:00:10:00.',
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

/**
 * Frames of a length, however it is written: `10 s` or `4.5` as seconds, `240` as frames, `00:00:10:00` as a timecode, in
 * which a `;` means drop-frame.
 *
 * @throws DurationError, TimecodeError for what cannot be read, and for a timecode that there is none of
 */
export function framesOfDuration(text: string, rate: FrameRate): FrameCount {
  const typed = text.trim();
  if (/[:;]/.test(typed)) return framesOfTimecode(typed, rate);
  const seconds = /^(\d[\d.,]*)\s*(?:s|sec|secs|second|seconds)$/i.exec(typed);
  if (seconds) return framesOfSeconds(seconds[1]!, rate);
  const frames = /^(\d{1,9})\s*(?:f|fr|frame|frames)?$/i.exec(typed);
  if (frames) return { frames: checked(Number(frames[1]), text), exact: true };
  return framesOfSeconds(typed, rate);
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

/** A range of one step as it is shown: how many frames, and over how many of the screen they are spread. */
export interface ScreenRun {
  readonly start: number;
  readonly count: number;
  readonly step: number;
  /** Frames of screen time from the first to where the range says that it ends, both included. */
  readonly span: number;
}

/**
 * How long a range is on screen. A range with a step, such as 1001-1096x5, still covers all of 1001 to 1096.
 *
 * @param text as it is ordered: where it ends is what it says, also where its step does not reach there
 * @returns null for a range that is no single run
 * @throws FrameRangeError for text that is no range
 */
export function screenRun(text: string): ScreenRun | null {
  const frames = parseFrameRange(text);
  const run = describeRun(frames);
  if (!run) return null;
  const stated = /^\s*(-?\d+)\s*-\s*(-?\d+)\s*x\s*\d+\s*$/i.exec(text);
  const last = stated ? Math.max(Number(stated[2]), frames.last!) : frames.last!;
  return { ...run, span: last - run.start + 1 };
}

/** The size on a screen of square pixels of a picture whose own are not square, to whole pixels; the lines stay. */
export function shownSize([width, height]: readonly [number, number], pixelAspect: number): [number, number] {
  return [Math.round(width * pixelAspect), height];
}
