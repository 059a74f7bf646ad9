import { MintError } from '../errors.ts';
import { formatFrameNumber, formatPaddingToken, type Padding } from './padding.ts';

/** A file name pattern with one frame token, relative to the shot's folder. */
export interface NamePattern {
  /** Folder below the shot's folder, without slashes at its ends; empty for the shot's folder. */
  readonly directory: string;
  /** What stands before the frame number in the file name. */
  readonly prefix: string;
  /** What stands behind it, extension included. */
  readonly suffix: string;
  readonly padding: Padding;
}

/** Raised when a text is not a usable file name pattern. */
export class NamePatternError extends MintError {
  constructor(text: string, why: string) {
    super('name-pattern', `“${text}” is not a usable name pattern: ${why}.`, {
      remedy: 'Write it like beauty/orr_010_beauty.####.exr, relative to the folder of the shot.',
    });
  }
}

const TOKEN = /#+|%(?:0?(\d+))?d/g;

/**
 * Reads a pattern such as `beauty/orr_010_beauty.####.exr` or `depth/z.%04d.exr`.
 *
 * @throws NamePatternError without exactly one frame token in the file name, or when the path is
 * absolute, climbs with `..`, or holds characters that no path should
 */
export function parseNamePattern(text: string): NamePattern {
  if (text.length > 1024) throw new NamePatternError(text.slice(0, 40) + '…', 'it is longer than 1024 characters');
  // eslint-disable-next-line no-control-regex -- control characters are what is looked for
  if (/[\\\u0000-\u001f\u007f]/.test(text)) throw new NamePatternError(text, 'it holds a backslash or a control character');
  if (text.startsWith('/')) throw new NamePatternError(text, 'it starts at the root of the disk');
  const parts = text.split('/').filter((part) => part !== '' && part !== '.');
  if (parts.includes('..')) throw new NamePatternError(text, 'it climbs out of the folder');
  const name = parts.pop() ?? '';
  if (text.endsWith('/') || name === '') throw new NamePatternError(text, 'it names a folder, not a file');
  if (parts.some((part) => part.search(TOKEN) >= 0)) {
    throw new NamePatternError(text, 'a frame number in a folder name is not supported');
  }
  const tokens = [...name.matchAll(TOKEN)];
  if (tokens.length === 0) throw new NamePatternError(text, 'it has no frame token (#### or %04d)');
  if (tokens.length > 1) throw new NamePatternError(text, 'it has more than one frame token');
  const token = tokens[0]!;
  const printf = token[0].startsWith('%');
  const width = printf ? (token[0].startsWith('%0') ? Number(token[1] ?? 1) : 1) : token[0].length;
  if (width > 12) throw new NamePatternError(text, 'a padding of more than 12 digits is not supported');
  return {
    directory: parts.join('/'),
    prefix: name.slice(0, token.index),
    suffix: name.slice(token.index + token[0].length),
    padding: { style: printf ? 'printf' : 'hash', width: Math.max(1, width) },
  };
}

/** Writes a pattern as text, the inverse of {@link parseNamePattern}. */
export function formatNamePattern(pattern: NamePattern): string {
  const name = pattern.prefix + formatPaddingToken(pattern.padding) + pattern.suffix;
  return pattern.directory === '' ? name : `${pattern.directory}/${name}`;
}

/** The path of one frame's file, relative to the shot's folder. */
export function framePath(pattern: NamePattern, frame: number): string {
  const name = pattern.prefix + formatFrameNumber(frame, pattern.padding) + pattern.suffix;
  return pattern.directory === '' ? name : `${pattern.directory}/${name}`;
}

/**
 * The frame number that a file name carries between the pattern's prefix and suffix, or null if
 * the name is another. `exact` tells whether the number is written with the pattern's padding.
 *
 * @param name the file's name without its folder
 */
export function matchFrameName(pattern: NamePattern, name: string): { frame: number; exact: boolean } | null {
  const frame = findFrame(pattern, name, 0);
  return frame === null ? null : { frame, exact: isWrittenAsOrdered(pattern, name, 0, frame) };
}

/**
 * The frame number alone of a name that stands in a path: a count asks it of every file there is.
 *
 * @param start where the name begins in the path
 */
export function findFrame({ prefix, suffix }: NamePattern, path: string, start: number): number | null {
  const from = start + prefix.length;
  const end = path.length - suffix.length;
  if (end <= from || !path.startsWith(prefix, start) || !path.endsWith(suffix)) return null;
  return parseFrameDigits(path, from, end);
}

/** Whether a frame that {@link findFrame} found is written with the pattern's padding. */
export function isWrittenAsOrdered({ prefix, suffix, padding }: NamePattern, path: string, start: number, frame: number): boolean {
  const from = start + prefix.length;
  const length = path.length - suffix.length - from;
  const first = path.charCodeAt(from);
  // Just as wide as ordered, without a sign: no other way to write it is as wide.
  if (length === padding.width && first !== MINUS) return true;
  return path.slice(from, from + length) === formatFrameNumber(frame, padding);
}

const MINUS = 0x2d;

function parseFrameDigits(name: string, start: number, end: number): number | null {
  const negative = name.charCodeAt(start) === MINUS;
  const from = negative ? start + 1 : start;
  if (from === end || end - from > 15) return null;
  let value = 0;
  for (let i = from; i < end; i++) {
    const digit = name.charCodeAt(i) - 0x30;
    if (digit < 0 || digit > 9) return null;
    value = value * 10 + digit;
  }
  if (value > 999_999_999) return null;
  return negative && value !== 0 ? -value : value;
}
