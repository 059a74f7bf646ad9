import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { link, lstat, mkdir, open, rename, rm, utimes } from 'node:fs/promises';
import path from 'node:path';
import { MintError, type MergeWay } from '@mint-tally/core';

/** Raised when a file could not be brought to its place. What was done before it stays done. */
export class TransferError extends MintError {}

const PIECE = 1 << 20;

/** SHA-256 of a file, hexadecimal; null when it is not there. */
export async function hashFile(file: string): Promise<string | null> {
  const hash = createHash('sha256');
  try {
    for await (const piece of createReadStream(file, { highWaterMark: PIECE })) hash.update(piece as Buffer);
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code === 'ENOENT') return null;
    throw thrown;
  }
  return hash.digest('hex');
}

export async function exists(file: string): Promise<boolean> {
  return lstat(file).then(
    () => true,
    () => false,
  );
}

/**
 * Brings a file to a place where none is: copied and read back, moved, or linked. It appears under
 * its name whole or not at all.
 *
 * @param sha256 of the file as it is now; what arrives must have it
 * @throws TransferError
 */
export async function transfer(from: string, to: string, way: MergeWay, sha256: string): Promise<void> {
  try {
    await mkdir(path.dirname(to), { recursive: true });
    if (await exists(to))
      throw new TransferError('file-in-the-way', `${to} is there, and was not when the merge was previewed.`, {
        subject: to,
        remedy: 'Preview the merge again.',
      });
    if (way === 'link') await link(from, to);
    else if (way === 'move' && (await sameDisk(from, path.dirname(to)))) await rename(from, to);
    else {
      await copyVerified(from, to, sha256);
      if (way === 'move') await rm(from);
    }
    await syncFolder(path.dirname(to));
  } catch (thrown) {
    throw thrown instanceof MintError ? thrown : asTransferError(thrown, from, to);
  }
}

async function sameDisk(file: string, folder: string): Promise<boolean> {
  return (await lstat(file)).dev === (await lstat(folder)).dev;
}

async function copyVerified(from: string, to: string, sha256: string): Promise<void> {
  const partial = `${to}.part`;
  const stats = await lstat(from);
  try {
    const target = await open(partial, 'w');
    try {
      for await (const piece of createReadStream(from, { highWaterMark: PIECE })) await target.writeFile(piece as Buffer);
      await target.sync();
    } finally {
      await target.close();
    }
    // What was written is read back: a disk that lies is found out here, not by the compositor.
    if ((await hashFile(partial)) !== sha256) {
      throw new TransferError('copy-differs', `The copy of ${from} differs from it.`, {
        subject: to,
        remedy: 'Something wrote to the file, or the disk is failing. Try again; if it stays so, check the disk.',
      });
    }
    await utimes(partial, stats.atime, stats.mtime);
    await rename(partial, to);
  } catch (thrown) {
    await rm(partial, { force: true });
    throw thrown;
  }
}

async function syncFolder(folder: string): Promise<void> {
  const handle = await open(folder, 'r');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

/** Says in our own words why the system refused, where, and what can be done. */
export function asTransferError(thrown: unknown, from: string, to: string): TransferError {
  const { code } = thrown as NodeJS.ErrnoException;
  const told = (what: string, subject: string, remedy: string) => new TransferError('merge-stopped', what, { subject, remedy, cause: thrown });
  switch (code) {
    case 'ENOSPC':
    case 'EDQUOT':
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
      return told(`${from} is not there any more (${code}).`, from, 'Bring its disk back, then go on.');
    default:
      return told(`${from} could not be brought to ${to} (${code ?? String(thrown)}).`, to, 'Look at both, then go on.');
  }
}
