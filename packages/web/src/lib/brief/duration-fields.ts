import {
  allowsDropFrame,
  describeError,
  DurationError,
  formatTimecode,
  framesOfDuration,
  framesOfSeconds,
  MintError,
  parseFrameRate,
  rangeOf,
  screenRun,
  secondsOfFrames,
  type FrameRate,
} from '@mint-tally/core';

/** The range said in other words: where it begins and how long it is. */
export interface DurationFields {
  readonly start: string;
  readonly frames: string;
  readonly seconds: string;
  readonly timecode: string;
}

const NOTHING: DurationFields = { start: '', frames: '', seconds: '', timecode: '' };

/** What a range says in these words; empty where it has gaps or cannot be read. A range with a step lasts as long as what it covers. */
export function fieldsOfRange(range: string, fps: string, dropFrame = false): DurationFields {
  const run = safeRun(range);
  if (!run) return NOTHING;
  const rate = readRate(fps);
  return {
    start: String(run.start),
    frames: String(run.count),
    seconds: rate ? secondsOfFrames(run.span, rate) : '',
    timecode: rate ? formatTimecode(run.span, rate, dropFrame && allowsDropFrame(rate)) : '',
  };
}

/** How long a range is, in a few words: `4 s = 96 frames`. Empty where that cannot be said. */
export function sayLength(range: string, fps: string): string {
  const [run, rate] = [safeRun(range), readRate(fps)];
  if (!run || !rate) return '';
  const seconds = `${secondsOfFrames(run.span, rate)} s`;
  const frames = `${run.count.toLocaleString('en')} ${run.count === 1 ? 'frame' : 'frames'}`;
  return run.step === 1 ? `${seconds} = ${frames}` : `${seconds} on screen, one frame in ${run.step}: ${frames}`;
}

function readRate(fps: string): FrameRate | null {
  try {
    return parseFrameRate(fps);
  } catch {
    return null;
  }
}

/** A range that follows from what was typed, or why there is none. */
export type RangeAfter = { readonly range: string; readonly problem: null } | { readonly range: null; readonly problem: string };

/**
 * The range after one of these words was typed over; the start stays where it was, and so does the
 * step.
 */
export function rangeAfter(range: string, fps: string, field: keyof DurationFields, typed: string): RangeAfter {
  const none = (problem: string): RangeAfter => ({ range: null, problem });
  try {
    const run = safeRun(range);
    const step = run?.step ?? 1;
    const start = field === 'start' ? wholeNumber(typed) : (run?.start ?? 1001);
    if (start === null) return none('A frame is a whole number.');
    const count = field === 'start' ? (run?.count ?? 1) : counted(field, typed, fps, step);
    return count === null ? none('A length needs a frame rate.') : { range: rangeOf(start, count, step), problem: null };
  } catch (thrown) {
    if (thrown instanceof MintError) return none(describeError(thrown));
    throw thrown;
  }
}

/** Whether a frame rate, as it is typed, has drop-frame timecodes. */
export function hasDropFrame(fps: string): boolean {
  const rate = readRate(fps);
  return rate !== null && allowsDropFrame(rate);
}

function safeRun(range: string) {
  try {
    return screenRun(range);
  } catch {
    return null;
  }
}

/**
 * Frames of a range that a field says: a bare number in the field's own unit, everything else as it is written.
 *
 * @returns null where it takes a rate and there is none
 * @throws DurationError, TimecodeError
 */
function counted(field: 'frames' | 'seconds' | 'timecode', typed: string, fps: string, step: number): number | null {
  const bare = wholeNumber(typed);
  if (field === 'frames' && bare !== null && bare >= 1) return bare;
  if (field === 'frames' && /^[\d.,]+$/.test(typed.trim())) throw new DurationError(typed, 'frames are whole');
  const rate = readRate(fps);
  if (!rate) return null;
  const span = (field === 'seconds' && /^[\d.,]+$/.test(typed.trim()) ? framesOfSeconds(typed, rate) : framesOfDuration(typed, rate)).frames;
  // The first frame, and one more for each whole step that the length reaches.
  return Math.floor((span - 1) / step) + 1;
}

function wholeNumber(text: string): number | null {
  return /^\s*-?\d{1,9}\s*$/.test(text) ? Number(text) : null;
}
