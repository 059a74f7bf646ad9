import path from 'node:path';
import { MintError } from '@mint-tally/core';

/** Raised when a path is not one that may be read or written, or is not there. */
export class FileAccessError extends MintError {
  constructor(
    code: 'outside-root' | 'unknown-root' | 'not-found' | 'not-readable' | 'not-writable' | 'disk-full' | 'file-in-the-way',
    message: string,
    subject: string,
    cause?: unknown,
  ) {
    super(code, message, { subject, remedy: REMEDIES[code], cause });
  }
}

const REMEDIES = {
  'outside-root': 'Choose a folder inside one of the configured roots.',
  'unknown-root': 'Choose one of the configured roots, or add it to mint-tally.config.json.',
  'not-found': 'It may have been moved or renamed; choose it again.',
  'not-readable': 'Check its permissions.',
  'not-writable': 'Choose a root that mint-tally.config.json marks as writable.',
  'disk-full': 'Make room on it, then try again.',
  'file-in-the-way': 'Look at what is there, then try again.',
} as const;

/**
 * Joins a relative path to a folder, refusing every path that would climb out, before the disk is
 * even asked.
 *
 * @throws FileAccessError
 */
export function joinInside(folder: string, relative: string): string {
  const outside = () => new FileAccessError('outside-root', `${JSON.stringify(relative)} is not a path inside its folder.`, relative);
  if (relative.includes('\0') || path.isAbsolute(relative)) throw outside();
  const parts = relative.split('/').filter((part) => part !== '' && part !== '.');
  if (parts.includes('..')) throw outside();
  return path.join(folder, ...parts);
}

/** Whether a real path is a folder itself or lies below it. */
export function isInside(folder: string, real: string): boolean {
  return real === folder || real.startsWith(folder.endsWith(path.sep) ? folder : folder + path.sep);
}

/** Says in our own words why the system refused a path. */
export function accessError(thrown: unknown, subject: string): FileAccessError {
  if (thrown instanceof FileAccessError) return thrown;
  const code = (thrown as NodeJS.ErrnoException).code;
  switch (code) {
    case 'ENOENT':
    case 'ENOTDIR':
      return new FileAccessError('not-found', `${subject} is not there.`, subject, thrown);
    case 'ELOOP':
      return new FileAccessError('not-readable', `${subject} is a link that leads round in a circle.`, subject, thrown);
    case 'ENOSPC':
    case 'EDQUOT':
      return new FileAccessError('disk-full', `The disk of ${subject} is full.`, subject, thrown);
    case 'EEXIST':
    case 'ENOTEMPTY':
      return new FileAccessError('file-in-the-way', `${subject} is there already.`, subject, thrown);
    case 'EROFS':
      return new FileAccessError('not-writable', `${subject} lies on a disk that can only be read.`, subject, thrown);
    default:
      return new FileAccessError('not-readable', `${subject} cannot be used (${code ?? String(thrown)}).`, subject, thrown);
  }
}
