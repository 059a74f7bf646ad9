import { MintError } from '../errors.ts';
import { FrameSet, MAXIMUM_FRAMES, MAXIMUM_FRAME_NUMBER, TooManyFramesError } from './frame-set.ts';

/** Raised when a text is not a frame range; `position` counts characters from 0. */
export class RangeNotationError extends MintError {
  readonly position: number;

  constructor(message: string, text: string, position: number) {
    super('range-notation', `${message} (at character ${position + 1} of “${text}”).`, {
      remedy: 'Write ranges like 1001-1096 or 1-100x2,120.',
    });
    this.position = position;
  }
}

const ITEM = /(-?\d+)(?:\s*-\s*(-?\d+)(?:\s*x\s*(-?\d+))?)?/y;

/**
 * Reads range notation: single frames and inclusive ranges, each range with an optional step,
 * separated by commas or blanks. `1-100x2,120`, `-5-5` and `-10--5` are understood.
 *
 * @throws RangeNotationError where the text is not a range, with the position
 * @throws TooManyFramesError for more than a million frames
 */
export function parseFrameRange(text: string): FrameSet {
  const pieces: number[] = [];
  let position = skipBlanks(text, 0);
  if (position === text.length) throw new RangeNotationError('There is no frame', text, position);
  for (;;) {
    ITEM.lastIndex = position;
    const match = ITEM.exec(text);
    if (!match) throw new RangeNotationError('A frame number was expected', text, position);
    for (const frame of readItem(match, text, position)) pieces.push(frame);
    if (pieces.length > 2 * MAXIMUM_FRAMES) throw new TooManyFramesError(pieces.length);
    const afterItem = position + match[0].length;
    position = skipBlanks(text, afterItem);
    if (position === text.length) return FrameSet.of(pieces);
    if (text[position] === ',') {
      position = skipBlanks(text, position + 1);
    } else if (position === afterItem) {
      throw new RangeNotationError(`“${text[position]}” does not belong in a range`, text, position);
    }
  }
}

/** Reads what `formatFrameRange` writes: where a person has to name frames, an empty text is a mistake; here it is no frames. @throws as `parseFrameRange` */
export function parseFrameSet(text: string): FrameSet {
  return text === '' ? FrameSet.empty : parseFrameRange(text);
}

function readItem(match: RegExpExecArray, text: string, position: number): FrameSet {
  const first = readNumber(match[1]!, text, position);
  if (match[2] === undefined) return FrameSet.range(first, first);
  const last = readNumber(match[2], text, position);
  const step = match[3] === undefined ? 1 : readNumber(match[3], text, position);
  if (step < 1) throw new RangeNotationError(`The step must be 1 or more, not ${step}`, text, position);
  if (last < first) throw new RangeNotationError(`The range ends (${last}) before it starts (${first})`, text, position);
  return FrameSet.range(first, last, step);
}

function readNumber(digits: string, text: string, position: number): number {
  const value = Number(digits);
  if (Math.abs(value) > MAXIMUM_FRAME_NUMBER) {
    throw new RangeNotationError(`${digits} is too large for a frame number`, text, position);
  }
  return value === 0 ? 0 : value;
}

function skipBlanks(text: string, from: number): number {
  let position = from;
  while (position < text.length && /\s/.test(text[position]!)) position++;
  return position;
}

/** Writes a set in range notation, the shortest way a person would; the empty set gives the empty string. */
export function formatFrameRange(frames: FrameSet): string {
  return frames.toString();
}
