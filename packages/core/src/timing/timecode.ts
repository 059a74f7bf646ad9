import { MintError } from '../errors.ts';
import type { FrameRate } from './rate.ts';

/** Raised when a text is not a timecode at the rate asked for. */
export class TimecodeError extends MintError {
  constructor(text: string, why: string) {
    super('timecode', `“${text}” is not a timecode: ${why}.`, { remedy: 'Write it like 01:02:03:04.' });
  }
}

/** Frames that a timecode second counts: the rate rounded up to a whole number (SMPTE ST 12-1). */
export function nominalRate(rate: FrameRate): number {
  return Math.ceil(rate.numerator / rate.denominator);
}

/** Whether drop-frame counting is defined at this rate: 30000/1001 and 60000/1001 only. */
export function allowsDropFrame(rate: FrameRate): boolean {
  return rate.denominator === 1001 && (rate.numerator === 30000 || rate.numerator === 60000);
}

/**
 * Writes the timecode of a frame counted from 0, wrapping after 24 hours. Drop-frame (written
 * with `;`) leaves out the first 2 labels (4 at 60000/1001) of every minute that is not a
 * multiple of ten, so that the label keeps up with the clock (SMPTE ST 12-1).
 *
 * @throws TimecodeError when drop-frame is asked for at a rate that has none
 */
export function formatTimecode(frameCount: number, rate: FrameRate, dropFrame = false): string {
  const nominal = nominalRate(rate);
  if (dropFrame && !allowsDropFrame(rate)) throw new TimecodeError(String(frameCount), 'this rate has no drop-frame');
  const dropped = dropFrame ? nominal / 15 : 0;
  const framesInTenMinutes = nominal * 600 - 9 * dropped;
  const framesInDay = framesInTenMinutes * 144;
  let label = ((frameCount % framesInDay) + framesInDay) % framesInDay;
  if (dropFrame) {
    const tens = Math.floor(label / framesInTenMinutes);
    const rest = label % framesInTenMinutes;
    const framesInMinute = nominal * 60 - dropped;
    const minutes = rest < nominal * 60 ? 0 : 1 + Math.floor((rest - nominal * 60) / framesInMinute);
    label += dropped * (9 * tens + minutes);
  }
  const seconds = Math.floor(label / nominal);
  const two = (value: number) => String(value).padStart(2, '0');
  const frames = String(label % nominal).padStart(nominal > 100 ? 3 : 2, '0');
  const clock = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60].map(two).join(':');
  return `${clock}${dropFrame ? ';' : ':'}${frames}`;
}

/**
 * Reads a timecode and gives its frame, counted from 0. A `;` (or `.`) before the frames means
 * drop-frame.
 *
 * @throws TimecodeError for text that is no timecode, and for labels that drop-frame leaves out
 */
export function parseTimecode(text: string, rate: FrameRate): number {
  const match = /^(\d{1,2})[:;]([0-5]\d)[:;]([0-5]\d)([:;.])(\d{2,3})$/.exec(text.trim());
  if (!match) throw new TimecodeError(text, 'it does not read hours:minutes:seconds:frames');
  const nominal = nominalRate(rate);
  const [hours, minutes, seconds, frames] = [match[1], match[2], match[3], match[5]].map(Number);
  if (hours > 23) throw new TimecodeError(text, 'a day has 24 hours');
  if (frames >= nominal) throw new TimecodeError(text, `a second has ${nominal} frames here`);
  const total = (hours * 3600 + minutes * 60 + seconds) * nominal + frames;
  if (match[4] === ':') return total;
  if (!allowsDropFrame(rate)) throw new TimecodeError(text, 'this rate has no drop-frame');
  const dropped = nominal / 15;
  if (seconds === 0 && frames < dropped && minutes % 10 !== 0) {
    throw new TimecodeError(text, `drop-frame leaves the first ${dropped} labels of this minute out`);
  }
  const allMinutes = hours * 60 + minutes;
  return total - dropped * (allMinutes - Math.floor(allMinutes / 10));
}
