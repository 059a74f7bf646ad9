import { opendir, statfs } from 'node:fs/promises';
import path from 'node:path';
import { checkWav, MintError } from '@mint-tally/core';
import { accessError } from '@mint-tally/disk';
import { findRoot, readArrived, resolveInside, withFile, type ArrivedPackage, type Proposal } from '@mint-tally/engine';
import type { FolderView } from '$lib/folders/folder-view';
import { services } from './services';

/** Folders shown of one folder; a place with more is not for picking by eye. */
const SHOWN_FOLDERS = 1000;

/** What stands in a folder of a root, for the picker. @throws FileAccessError */
export async function readFolder(rootName: string, relative: string): Promise<FolderView> {
  const root = findRoot(services().config.roots, rootName);
  const folder = resolveInside(root, relative);
  const folders: string[] = [];
  let files = 0;
  try {
    for await (const entry of await opendir(folder)) {
      if (entry.name.startsWith('.')) continue;
      if (entry.isDirectory() || (entry.isSymbolicLink() && leadsToFolder(rootName, relative, entry.name))) folders.push(entry.name);
      else files++;
    }
  } catch (thrown) {
    throw accessError(thrown, relative || rootName);
  }
  folders.sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
  return { root: rootName, path: relative, folders: folders.slice(0, SHOWN_FOLDERS), more: Math.max(0, folders.length - SHOWN_FOLDERS), files };
}

/** A link is shown where it leads to a folder inside the same root; others are not. */
function leadsToFolder(rootName: string, relative: string, name: string): boolean {
  const root = findRoot(services().config.roots, rootName);
  try {
    resolveInside(root, path.posix.join(relative, name, '.'));
    return true;
  } catch {
    return false;
  }
}

/** The brief that a folder's content suggests, with the folder's sums; null brief where nothing is numbered. @throws MintError */
export function proposeForFolder(rootName: string, relative: string): Promise<Proposal> {
  const { config, proposer } = services();
  return proposer.propose(resolveInside(findRoot(config.roots, rootName), relative));
}

/** What a folder that is a package says of itself; null for one that is none. @throws MintError */
export function findPackage(rootName: string, relative: string): ArrivedPackage | null {
  return readArrived(resolveInside(findRoot(services().config.roots, rootName), relative));
}

/** The folder that frames go to, and the room that its disk has. */
export async function readPlace(rootName: string, relative: string): Promise<{ folder: string; freeBytes: number } | null> {
  try {
    const folder = resolveInside(findRoot(services().config.roots, rootName), relative);
    const { bavail, bsize } = await statfs(folder);
    return { folder, freeBytes: bavail * bsize };
  } catch (thrown) {
    // A folder that is gone is told by the count; the sums beside the brief do without it.
    if (thrown instanceof MintError) return null;
    throw thrown;
  }
}

/** How long a sound beside the frames is. @throws FrameFileError, FileAccessError */
export function readSound(rootName: string, relative: string, file: string): { file: string; samples: number; sampleRate: number } {
  const folder = resolveInside(findRoot(services().config.roots, rootName), relative);
  const { header, samples } = withFile(folder, file, checkWav);
  return { file, samples, sampleRate: header.sampleRate };
}
