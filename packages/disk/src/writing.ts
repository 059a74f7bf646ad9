import { closeSync, constants, openSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { link, lstat, open, rename, rm, unlink, type FileHandle } from 'node:fs/promises';
import path from 'node:path';
import { HeldFolder } from './held-folder.ts';
import { accessError, FileAccessError, joinInside } from './paths.ts';
import { piecesOf } from './pieces.ts';

const NEW_FILE = constants.O_WRONLY | constants.O_CREAT | constants.O_EXCL | constants.O_NOFOLLOW;
/** Codes of file systems that have no hard links. */
const NO_LINKS: ReadonlySet<string> = new Set(['EPERM', 'EOPNOTSUPP', 'ENOSYS', 'EMLINK', 'EXDEV']);

/**
 * Makes a file that is not there yet, never through a link and never over another, and brings what is
 * written into it to the disk for good. What a failed try made is taken away.
 */
async function makeFile(folder: HeldFolder, name: string, fill: (file: FileHandle) => Promise<void>): Promise<void> {
  const told = (thrown: unknown) => accessError(thrown, path.join(folder.path, name));
  const file = await open(folder.at(name), NEW_FILE).catch((thrown: unknown) => {
    throw told(thrown);
  });
  try {
    await fill(file);
    await file.sync();
  } catch (thrown) {
    await rm(folder.at(name), { force: true });
    throw told(thrown);
  } finally {
    await file.close();
  }
}

/**
 * Writes a new file, to the disk for good.
 *
 * @throws FileAccessError
 */
export function writeWhole(folder: HeldFolder, name: string, data: string | Uint8Array): Promise<void> {
  return makeFile(folder, name, (file) => file.writeFile(data));
}

/**
 * Copies what is read from an open file into a new one, with its times, to the disk for good.
 *
 * @param onPiece sees every piece as it passes, for a checksum
 * @throws FileAccessError
 */
export function copyInto(
  folder: HeldFolder,
  name: string,
  from: { readonly descriptor: number; readonly atime: Date; readonly mtime: Date },
  onPiece: (piece: Uint8Array) => void,
): Promise<void> {
  return makeFile(folder, name, async (file) => {
    for await (const piece of piecesOf(from.descriptor)) {
      onPiece(piece);
      await file.writeFile(piece);
    }
    await file.utimes(from.atime, from.mtime);
  });
}

/**
 * Moves a file within its disk to a name under which nothing is: whoever put something there meanwhile
 * keeps it. Between the two steps the file stands under both names, never under none.
 *
 * @throws FileAccessError; EXDEV as the system throws it when the two lie on different disks
 */
export async function moveInto(from: HeldFolder, fromName: string, to: HeldFolder, toName: string): Promise<void> {
  const [source, target] = [from.at(fromName), to.at(toName)];
  try {
    await link(source, target);
    await unlink(source);
  } catch (thrown) {
    const { code = '' } = thrown as NodeJS.ErrnoException;
    if (code === 'EXDEV' || !NO_LINKS.has(code)) throw code === 'EXDEV' ? thrown : accessError(thrown, path.join(to.path, toName));
    // Such disks can only rename, which would replace; looking first is the best there is.
    if (await lstat(target).catch(() => null)) throw new FileAccessError('file-in-the-way', `${path.join(to.path, toName)} is there already.`, toName);
    await rename(source, target);
  }
}

/**
 * Opens a new file in the place of whatever bears its name: a link there is taken away, not followed, and a
 * file that has other names keeps its bytes under those. For what writes piece by piece, as renderers do.
 *
 * @param limit path of the folder that is not left, whatever links stand in it
 * @param place path below it; folders on the way are made
 * @returns the descriptor; close it
 * @throws FileAccessError
 */
export function openAnew(limit: string, place: string): number {
  return inFolderOf(limit, place, (folder, name) => {
    rmSync(folder.at(name), { force: true });
    return openSync(folder.at(name), NEW_FILE, 0o666);
  });
}

/**
 * Writes a file whole, in the place of one that may be there: under another name first, then renamed.
 * Waits without giving way, as worker threads may.
 *
 * @throws FileAccessError
 */
export function replaceWhole(limit: string, place: string, bytes: Uint8Array): void {
  inFolderOf(limit, place, (folder, name) => {
    const partial = folder.at(`${name}.tmp`);
    rmSync(partial, { force: true });
    const descriptor = openSync(partial, NEW_FILE, 0o666);
    try {
      writeFileSync(descriptor, bytes);
    } finally {
      closeSync(descriptor);
    }
    renameSync(partial, folder.at(name));
  });
}

function inFolderOf<Result>(limit: string, place: string, work: (folder: HeldFolder, name: string) => Result): Result {
  const wanted = joinInside('/', place);
  const [folder, name] = [HeldFolder.open(limit, path.dirname(wanted).slice(1)), path.basename(wanted)];
  try {
    return work(folder, name);
  } catch (thrown) {
    throw accessError(thrown, path.join(folder.path, name));
  } finally {
    folder.close();
  }
}
