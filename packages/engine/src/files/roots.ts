import { closeSync, constants, fstatSync, openSync, readlinkSync, realpathSync, type Stats } from 'node:fs';
import path from 'node:path';
import { accessError, FileAccessError, HeldFolder, isInside, joinInside } from '@mint-tally/disk';
import type { Root } from '../config/config.ts';

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

/** The real path of a folder that is there, inside a writable root. @throws FileAccessError */
export function resolveWritable(root: Root, relative: string): string {
  if (!root.writable) throw new FileAccessError('not-writable', `${root.name} may only be read.`, root.name);
  return resolveInside(root, relative);
}

/**
 * Opens the folder that something new is to be made in, below a writable root; the folders on the way are
 * made, and no link leads out. Close it.
 *
 * @returns the folder, and the name that the new thing bears in it
 * @throws FileAccessError
 */
export function openForWriting(root: Root, relative: string): { parent: HeldFolder; name: string } {
  if (!root.writable) throw new FileAccessError('not-writable', `${root.name} may only be read.`, root.name);
  const wanted = joinInside('/', relative);
  if (wanted === '/') throw new FileAccessError('outside-root', `${root.name} itself is there already.`, relative);
  return { parent: HeldFolder.open(root.path, path.dirname(wanted).slice(1)), name: path.basename(wanted) };
}

function realPath(wanted: string, subject: string): string {
  try {
    return realpathSync(wanted);
  } catch (thrown) {
    throw accessError(thrown, subject);
  }
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
