import { closeSync, constants, fstatSync, mkdirSync, openSync, readlinkSync, realpathSync, type Stats } from 'node:fs';
import path from 'node:path';
import { MintError } from '@mint-tally/core';
import type { Root } from '../config/config.ts';

/** Raised when a path is not one that may be read or written, or is not there. */
export class FileAccessError extends MintError {
  constructor(code: 'outside-root' | 'unknown-root' | 'not-found' | 'not-readable' | 'not-writable', message: string, subject: string, cause?: unknown) {
    super(code, message, { subject, remedy: REMEDIES[code], cause });
  }
}

const REMEDIES = {
  'outside-root': 'Choose a folder inside one of the configured roots.',
  'unknown-root': 'Choose one of the configured roots, or add it to mint-tally.config.json.',
  'not-found': 'It may have been moved or renamed; choose it again.',
  'not-readable': 'Check its permissions.',
  'not-writable': 'Choose a root that mint-tally.config.json marks as writable.',
} as const;

/** The configured root of this name. @throws FileAccessError */
export function findRoot(roots: readonly Root[], name: string): Root {
  const root = roots.find((candidate) => candidate.name === name);
  if (!root) throw new FileAccessError('unknown-root', `There is no root called ${name}.`, name);
  return root;
}

/**
 * The real, absolute path of something inside a root. Neither `..`, nor an absolute path, nor a
 * symbolic link leads out of it.
 *
 * @param relative path below the root with `/` between folders; empty for the root itself
 * @throws FileAccessError
 */
export function resolveInside(root: Root, relative: string): string {
  const wanted = joinInside(root.path, relative);
  const top = realPath(root.path, root.name);
  const real = realPath(wanted, relative);
  if (!isInside(top, real)) throw new FileAccessError('outside-root', `${relative} leads out of ${root.name}.`, relative);
  return real;
}

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

/** The real path of a folder that is there, inside a writable root. @throws FileAccessError */
export function resolveWritable(root: Root, relative: string): string {
  if (!root.writable) throw new FileAccessError('not-writable', `${root.name} may only be read.`, root.name);
  return resolveInside(root, relative);
}

/** A new path for writing inside a writable root; the folders above it are made. @throws FileAccessError */
export function resolveForWriting(root: Root, relative: string): string {
  if (!root.writable) throw new FileAccessError('not-writable', `${root.name} may only be read.`, root.name);
  const wanted = joinInside(root.path, relative);
  mkdirSync(path.dirname(wanted), { recursive: true });
  const parent = realPath(path.dirname(wanted), relative);
  if (!isInside(realPath(root.path, root.name), parent)) {
    throw new FileAccessError('outside-root', `${relative} leads out of ${root.name}.`, relative);
  }
  return path.join(parent, path.basename(wanted));
}

function realPath(wanted: string, subject: string): string {
  try {
    return realpathSync(wanted);
  } catch (thrown) {
    throw accessError(thrown, subject);
  }
}

/** Whether a real path is a folder itself or lies below it. */
export function isInside(folder: string, real: string): boolean {
  return real === folder || real.startsWith(folder.endsWith(path.sep) ? folder : folder + path.sep);
}

/** Says in our own words why the system refused a path. */
export function accessError(thrown: unknown, subject: string): FileAccessError {
  const code = (thrown as NodeJS.ErrnoException).code;
  if (code === 'ENOENT' || code === 'ENOTDIR') return new FileAccessError('not-found', `${subject} is not there.`, subject);
  if (code === 'ELOOP') return new FileAccessError('not-readable', `${subject} is a link that leads round in a circle.`, subject);
  return new FileAccessError('not-readable', `${subject} cannot be read (${code ?? String(thrown)}).`, subject, thrown);
}

/** An open regular file that is known to lie inside its folder. Close it. */
export interface OpenFile {
  readonly descriptor: number;
  readonly stats: Stats;
}

/**
 * Opens a regular file below a folder for reading. What was opened is checked after opening, so a
 * link that is swapped in between changes nothing; a pipe cannot make this wait.
 *
 * @param folder real path of the folder that must not be left
 * @throws FileAccessError
 */
export function openInside(folder: string, relative: string): OpenFile {
  const wanted = joinInside(folder, relative);
  let descriptor: number;
  try {
    descriptor = openSync(wanted, constants.O_RDONLY | constants.O_NONBLOCK);
  } catch (thrown) {
    throw accessError(thrown, relative);
  }
  try {
    const stats = fstatSync(descriptor);
    if (!stats.isFile()) throw new FileAccessError('not-readable', `${relative} is not a regular file.`, relative);
    if (!isInside(folder, readlinkSync(`/proc/self/fd/${descriptor}`))) {
      throw new FileAccessError('outside-root', `${relative} is a link that leads out of its folder.`, relative);
    }
    return { descriptor, stats };
  } catch (thrown) {
    closeSync(descriptor);
    throw thrown instanceof FileAccessError ? thrown : accessError(thrown, relative);
  }
}
