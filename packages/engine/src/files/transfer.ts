import { closeSync, existsSync } from 'node:fs';
import { link, rm, unlink } from 'node:fs/promises';
import path from 'node:path';
import { MintError, type MergeWay } from '@mint-tally/core';
import { copyInto, FileAccessError, hashOpen, HeldFolder, joinInside, moveInto, writeWhole } from '@mint-tally/disk';
import { openInside } from './roots.ts';

/** Raised when a file could not be brought to its place. What was done before it stays done. */
export class TransferError extends MintError {}

/** A file's place: a folder that is not left, whatever links stand in it, and the path below it. */
export interface Place {
  /** Real path. */
  readonly folder: string;
  readonly path: string;
}

export const shown = (place: Place) => path.join(place.folder, place.path);

/** SHA-256 of a regular file, hexadecimal; null when it is not there. A pipe in its place is refused, not waited for. */
export async function hashFile(place: Place): Promise<string | null> {
  try {
    const { descriptor } = openInside(place.folder, place.path);
    try {
      return await hashOpen(descriptor);
    } finally {
      closeSync(descriptor);
    }
  } catch (thrown) {
    if (thrown instanceof FileAccessError && thrown.code === 'not-found') return null;
    throw asTransferError(thrown, shown(place), shown(place));
  }
}

/** Holds the folder that a place is in while something is done there; it is made when it is not there. */
async function holding<Result>(place: Place, work: (folder: HeldFolder, name: string) => Promise<Result>): Promise<Result> {
  const wanted = joinInside('/', place.path);
  const folder = HeldFolder.open(place.folder, path.dirname(wanted).slice(1));
  try {
    return await work(folder, path.basename(wanted));
  } finally {
    folder.close();
  }
}

/** Whether something is there, be it a link that leads nowhere. */
export async function isThere(place: Place): Promise<boolean> {
  return holding(place, async (folder, name) => folder.has(name));
}

/** Takes a file away. */
export async function remove(place: Place): Promise<void> {
  await holding(place, async (folder, name) => {
    await unlink(folder.at(name));
    folder.sync();
  });
}

/** Under this name a file is written that does not stay within its disk, until it is whole. */
const partialOf = (name: string) => `${name}.part`;

/** Takes away what a try that fell has left half written beside a place. */
export async function removePartial(place: Place): Promise<void> {
  const partial = { folder: place.folder, path: partialOf(place.path) };
  // Looked for first, since holding its folder would make it.
  if (existsSync(shown(partial))) await remove(partial);
}

/**
 * Brings a file to a place where none is: copied and read back, moved, or linked. It appears under
 * its name whole or not at all, and never in the place of another.
 *
 * @param sha256 of the file as it is now; what arrives must have it
 * @throws TransferError
 */
export async function transfer(from: Place, to: Place, way: MergeWay, sha256: string): Promise<void> {
  try {
    await holding(to, async (folder, name) => {
      if (folder.has(name)) throw inTheWay(to);
      if (way === 'link') await linkInto(from, folder, name);
      else if (way === 'copy' || !(await movedWithin(from, folder, name))) {
        await copyVerified(from, to, folder, name, sha256);
        if (way === 'move') await remove(from);
      }
      folder.sync();
    });
  } catch (thrown) {
    if (thrown instanceof FileAccessError && thrown.code === 'file-in-the-way') throw inTheWay(to);
    throw thrown instanceof TransferError ? thrown : asTransferError(thrown, shown(from), shown(to));
  }
}

/** Writes what was made to a place where nothing is: it appears under its name whole or not at all. @throws TransferError */
export async function bring(to: Place, bytes: Uint8Array): Promise<void> {
  const partial = partialOf(path.basename(to.path));
  try {
    await holding(to, async (folder, name) => {
      if (folder.has(name)) throw inTheWay(to);
      // What a fallen try has left.
      await rm(folder.at(partial), { force: true });
      try {
        await writeWhole(folder, partial, bytes);
        await moveInto(folder, partial, folder, name);
      } catch (thrown) {
        await rm(folder.at(partial), { force: true });
        throw thrown;
      }
      folder.sync();
    });
  } catch (thrown) {
    throw thrown instanceof TransferError ? thrown : asTransferError(thrown, shown(to), shown(to));
  }
}

function inTheWay(to: Place): TransferError {
  return new TransferError('file-in-the-way', `${shown(to)} is there, and was not when this was previewed.`, {
    subject: shown(to),
    remedy: 'Preview it again.',
  });
}

async function linkInto(from: Place, folder: HeldFolder, name: string): Promise<void> {
  await holding(from, (source, sourceName) => link(source.at(sourceName), folder.at(name)));
}

/** Moves a file within its disk; false when it lies on another. */
async function movedWithin(from: Place, folder: HeldFolder, name: string): Promise<boolean> {
  return holding(from, async (source, sourceName) => {
    if (source.disk !== folder.disk) return false;
    try {
      await moveInto(source, sourceName, folder, name);
      source.sync();
      return true;
    } catch (thrown) {
      // Two views of one disk count as two.
      if ((thrown as NodeJS.ErrnoException).code === 'EXDEV') return false;
      throw thrown;
    }
  });
}

async function copyVerified(from: Place, to: Place, folder: HeldFolder, name: string, sha256: string): Promise<void> {
  const partial = partialOf(name);
  const { descriptor, stats } = openInside(from.folder, from.path);
  try {
    // What a fallen try has left.
    await rm(folder.at(partial), { force: true });
    await copyInto(folder, partial, { descriptor, atime: stats.atime, mtime: stats.mtime }, () => undefined);
    // What was written is read back: a disk that lies is found out here, not by the compositor.
    if ((await hashFile({ folder: to.folder, path: partialOf(to.path) })) !== sha256) {
      throw new TransferError('copy-differs', `The copy of ${shown(from)} differs from it.`, {
        subject: shown(to),
        remedy: 'Something wrote to the file, or the disk is failing. Try again; if it stays so, check the disk.',
      });
    }
    await moveInto(folder, partial, folder, name);
  } catch (thrown) {
    await rm(folder.at(partial), { force: true });
    throw thrown;
  } finally {
    closeSync(descriptor);
  }
}

/** Says in our own words why the system refused, where, and what can be done. */
export function asTransferError(thrown: unknown, from: string, to: string): TransferError {
  const cause = thrown instanceof FileAccessError && thrown.cause !== undefined ? thrown.cause : thrown;
  const { code } = cause as NodeJS.ErrnoException;
  const told = (what: string, subject: string, remedy: string) => new TransferError('merge-stopped', what, { subject, remedy, cause: thrown });
  switch (code) {
    case 'ENOSPC':
    case 'EDQUOT':
    case 'disk-full':
      return told(`The disk is full: there was no room for ${to}.`, to, 'Make room, then go on.');
    case 'EXDEV':
      return told(`${from} lies on another disk than ${to}, and hard links stay on one.`, to, 'Copy or move instead.');
    case 'EACCES':
    case 'EPERM':
    case 'EROFS':
      return told(`${from} could not be brought to ${to}: permission refused (${code}).`, to, 'Check the permissions of both folders, then go on.');
    case 'ENOENT':
    case 'ENODEV':
    case 'ESTALE':
    case 'EIO':
    case 'ENXIO':
    case 'not-found':
      return told(`${from} is not there any more (${code}).`, from, 'Bring its disk back, then go on.');
    default:
      if (thrown instanceof FileAccessError) return told(thrown.message, thrown.subject ?? to, thrown.remedy);
      return told(`${from} could not be brought to ${to} (${code ?? String(thrown)}).`, to, 'Look at both, then go on.');
  }
}
