import {
  allowsDropFrame,
  describeRun,
  formatTimecode,
  framesOfSeconds,
  framesOfTimecode,
  parseFrameRange,
  parseFrameRate,
  rangeOf,
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

/** What a range says in these words; empty where it has gaps or cannot be read. */
export function fieldsOfRange(range: string, fps: string, dropFrame = false): DurationFields {
  try {
    const run = describeRun(parseFrameRange(range));
    if (!run) return NOTHING;
    const rate = readRate(fps);
    return {
      start: String(run.start),
      frames: String(run.count),
      seconds: rate ? secondsOfFrames(run.count, rate) : '',
      timecode: rate ? formatTimecode(run.count, rate, dropFrame && allowsDropFrame(rate)) : '',
    };
  } catch {
    return NOTHING;
  }
}

function readRate(fps: string): FrameRate | null {
  try {
    return parseFrameRate(fps);
  } catch {
    return null;
  }
}

/**
 * The range after one of these words was typed over; the start stays where it was, and so does the
 * step. Null while what is typed cannot be read yet.
 */
export function rangeAfter(range: string, fps: string, field: keyof DurationFields, typed: string): string | null {
  try {
    const run = safeRun(range);
    const start = field === 'start' ? wholeNumber(typed) : (run?.start ?? 1001);
    const count = field === 'start' ? (run?.count ?? 1) : countOf(field, typed, fps);
    if (start === null || count === null) return null;
    return rangeOf(start, count, run?.step ?? 1);
  } catch {
    return null;
  }
}

/** Whether a frame rate, as it is typed, has drop-frame timecodes. */
export function hasDropFrame(fps: string): boolean {
  const rate = readRate(fps);
  return rate !== null && allowsDropFrame(rate);
}

function safeRun(range: string) {
  try {
    return describeRun(parseFrameRange(range));
  } catch {
    return null;
  }
}

function countOf(field: 'frames' | 'seconds' | 'timecode', typed: string, fps: string): number | null {
  if (field === 'frames') {
    const count = wholeNumber(typed);
    return count !== null && count >= 1 && count <= 1_000_000 ? count : null;
  }
  const rate = readRate(fps);
  if (!rate) return null;
  return (field === 'seconds' ? framesOfSeconds(typed, rate) : framesOfTimecode(typed, rate)).frames;
}

function wholeNumber(text: string): number | null {
  return /^\s*-?\d{1,9}\s*$/.test(text) ? Number(text) : null;
}
