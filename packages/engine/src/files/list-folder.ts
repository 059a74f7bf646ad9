import { opendir, lstat, stat, realpath } from 'node:fs/promises';
import path from 'node:path';
import type { Dirent } from 'node:fs';
import { MintError, type ListedFile } from '@mint-tally/core';
import { accessError, isInside } from './roots.ts';

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
const STATS_AT_ONCE = 64;

/** What a folder holds, and the folders in it that could not be read. */
export interface FolderListing {
  /** In no particular order. */
  readonly files: ListedFile[];
  readonly unreadable: readonly { path: string; message: string }[];
}

/**
 * Lists everything below a folder. Links are followed only where they stay inside; pipes, devices
 * and links that lead nowhere are listed as `special`.
 *
 * @param folder real path
 * @param options.stats whether size and time are asked for; without, both are 0
 * @throws FileAccessError when the folder itself cannot be read, FolderTooLargeError
 */
export async function listFolder(folder: string, options: { stats: boolean }): Promise<FolderListing> {
  const files: ListedFile[] = [];
  const unreadable: { path: string; message: string }[] = [];
  const pending: { relative: string; depth: number }[] = [{ relative: '', depth: 0 }];
  const seenLinks = new Set<string>();
  for (let next = pending.pop(); next; next = pending.pop()) {
    const { relative, depth } = next;
    const plain: string[] = [];
    try {
      for await (const entry of await opendir(path.join(folder, relative), { bufferSize: 1024 })) {
        const entryPath = relative === '' ? entry.name : `${relative}/${entry.name}`;
        const kind = await kindOf(entry, folder, entryPath, seenLinks);
        if (kind === 'folder') {
          if (depth < MAXIMUM_DEPTH) pending.push({ relative: entryPath, depth: depth + 1 });
          else unreadable.push({ path: entryPath, message: `Folders more than ${MAXIMUM_DEPTH} deep are not looked into.` });
        } else if (kind === 'special') files.push({ path: entryPath, size: 0, modified: 0, kind });
        else plain.push(entryPath);
      }
    } catch (thrown) {
      if (relative === '') throw accessError(thrown, folder);
      unreadable.push({ path: relative, message: accessError(thrown, relative).message });
    }
    if (files.length + plain.length > MAXIMUM_FILES) throw new FolderTooLargeError(folder);
    if (options.stats) files.push(...(await statAll(folder, plain)));
    else for (const entryPath of plain) files.push({ path: entryPath, size: 0, modified: 0, kind: 'file' });
  }
  return { files, unreadable };
}

async function kindOf(entry: Dirent, folder: string, entryPath: string, seenLinks: Set<string>): Promise<'file' | 'folder' | 'special'> {
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

async function statAll(folder: string, paths: readonly string[]): Promise<ListedFile[]> {
  const files: ListedFile[] = [];
  for (let start = 0; start < paths.length; start += STATS_AT_ONCE) {
    const batch = paths.slice(start, start + STATS_AT_ONCE);
    files.push(
      ...(await Promise.all(
        batch.map(async (entryPath): Promise<ListedFile> => {
          try {
            const full = path.join(folder, entryPath);
            let stats = await lstat(full);
            if (stats.isSymbolicLink()) stats = await stat(full);
            return { path: entryPath, size: stats.size, modified: Math.floor(stats.mtimeMs), kind: 'file' };
          } catch {
            // Gone or refused between listing and asking: looking into it will say which.
            return { path: entryPath, size: 0, modified: 0, kind: 'special' };
          }
        }),
      )),
    );
  }
  return files;
}
