import { lstatSync, statSync, type Dirent } from 'node:fs';
import { readdir, realpath, stat } from 'node:fs/promises';
import path from 'node:path';
import { setImmediate } from 'node:timers/promises';
import { MintError, SET_ASIDE, type ListedFile } from '@mint-tally/core';
import { accessError, isInside } from '@mint-tally/disk';

/** Raised when a folder holds more than a shot's folder should. */
export class FolderTooLargeError extends MintError {
  constructor(folder: string) {
    super('folder-too-large', `${folder} holds more than ${MAXIMUM_FILES.toLocaleString('en')} files.`, {
      subject: folder,
      remedy: 'Choose the folder of one shot.',
    });
  }
}

const MAXIMUM_FILES = 2_000_000;
const MAXIMUM_DEPTH = 32;
const FOLDERS_AT_ONCE = 8;
/** Sizes and times are asked for synchronously, which is much the fastest; between so many, others get a turn. */
const STATS_IN_A_ROW = 512;
/** What stands in a name for bytes that are no UTF-8; such a file cannot be opened by its name. */
const NO_TEXT = '\ufffd';

/** What a folder holds, and the folders in it that could not be read. */
export interface FolderListing {
  /** In no particular order. */
  readonly files: ListedFile[];
  readonly unreadable: readonly { path: string; message: string }[];
}

interface PendingFolder {
  readonly relative: string;
  readonly depth: number;
}

/**
 * Lists everything below a folder, but for what mends have set aside there. Links are followed only where they stay inside; pipes, devices
 * and links that lead nowhere are listed as `special`, and so are files whose names are no text.
 *
 * @param folder real path
 * @param options.stats whether size and time are asked for; without, both are 0
 * @throws FileAccessError when the folder itself cannot be read, FolderTooLargeError
 */
export async function listFolder(folder: string, options: { stats: boolean }): Promise<FolderListing> {
  const files: ListedFile[] = [];
  const unreadable: { path: string; message: string }[] = [];
  const seenLinks = new Set<string>();
  let pending: PendingFolder[] = [{ relative: '', depth: 0 }];
  while (pending.length > 0) {
    const some = pending.slice(0, FOLDERS_AT_ONCE);
    pending = pending.slice(FOLDERS_AT_ONCE);
    // While one folder's entries are gone through, the next ones are read.
    const reading = some.map((place) => readEntries(folder, place, unreadable));
    for (const [i, { relative, depth }] of some.entries()) {
      const entries = await reading[i]!;
      const paths = pathsOf(relative, entries);
      const plain: string[] = [];
      for (const [k, entry] of entries.entries()) {
        const entryPath = paths[k]!;
        if (entry.isFile() && !entry.name.includes(NO_TEXT)) {
          plain.push(entryPath);
          continue;
        }
        const kind = await kindOf(entry, folder, entryPath, seenLinks);
        if (kind === 'file') plain.push(entryPath);
        else if (kind === 'special') files.push({ path: entryPath, size: 0, modified: 0, kind });
        else if (entryPath === SET_ASIDE) continue;
        else if (depth < MAXIMUM_DEPTH) pending.push({ relative: entryPath, depth: depth + 1 });
        else unreadable.push({ path: entryPath, message: `Folders more than ${MAXIMUM_DEPTH} deep are not looked into.` });
      }
      if (files.length + plain.length > MAXIMUM_FILES) throw new FolderTooLargeError(folder);
      if (options.stats) await statAll(folder, plain, files);
      else for (const entryPath of plain) files.push({ path: entryPath, size: 0, modified: 0, kind: 'file' });
    }
  }
  return { files, unreadable };
}

/**
 * The paths of a folder's entries, cut from one text that holds them all: joined one by one, each would be
 * put together again when it is first looked at.
 */
function pathsOf(relative: string, entries: readonly Dirent[]): string[] {
  const prefix = relative === '' ? '' : `${relative}/`;
  const all = prefix + entries.map((entry) => entry.name).join(prefix);
  let end = 0;
  return entries.map((entry) => {
    const start = end;
    end += prefix.length + entry.name.length;
    return all.slice(start, end);
  });
}

async function readEntries(folder: string, { relative }: PendingFolder, unreadable: { path: string; message: string }[]): Promise<Dirent[]> {
  try {
    return await readdir(path.join(folder, relative), { withFileTypes: true });
  } catch (thrown) {
    if (relative === '') throw accessError(thrown, folder);
    unreadable.push({ path: relative, message: accessError(thrown, relative).message });
    return [];
  }
}

async function kindOf(entry: Dirent, folder: string, entryPath: string, seenLinks: Set<string>): Promise<'file' | 'folder' | 'special'> {
  if (entry.name.includes(NO_TEXT)) return 'special';
  if (entry.isFile()) return 'file';
  if (entry.isDirectory()) return 'folder';
  if (!entry.isSymbolicLink()) return 'special';
  try {
    const real = await realpath(path.join(folder, entryPath));
    if (!isInside(folder, real)) return 'special';
    const target = await stat(real);
    if (target.isFile()) return 'file';
    // A link to a folder above itself would be walked for ever.
    if (!target.isDirectory() || seenLinks.has(real) || isInside(real, path.join(folder, path.dirname(entryPath)))) return 'special';
    seenLinks.add(real);
    return 'folder';
  } catch {
    return 'special';
  }
}

async function statAll(folder: string, paths: readonly string[], files: ListedFile[]): Promise<void> {
  for (const [i, entryPath] of paths.entries()) {
    if (i % STATS_IN_A_ROW === STATS_IN_A_ROW - 1) await setImmediate();
    files.push(listOne(folder, entryPath));
  }
}

/** A file below a folder, as a listing has it. */
export const listOne = (folder: string, entryPath: string): ListedFile => statOne(`${folder}/${entryPath}`, entryPath);

function statOne(full: string, entryPath: string): ListedFile {
  try {
    let stats = lstatSync(full);
    if (stats.isSymbolicLink()) stats = statSync(full);
    return { path: entryPath, size: stats.size, modified: Math.floor(stats.mtimeMs), kind: 'file' };
  } catch {
    // Gone or refused between listing and asking: looking into it will say which.
    return { path: entryPath, size: 0, modified: 0, kind: 'special' };
  }
}
