import { opendir } from 'node:fs/promises';
import path from 'node:path';
import { proposeBrief, sampleFiles, withImpliedKinds, type Brief, type FileFacts } from '@mint-tally/core';
import { accessError, findRoot, inspectFile, listFolder, resolveInside } from '@mint-tally/engine';
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

/** The brief that a folder's content suggests, with the folder's sums; null brief where nothing is numbered. */
export async function proposeForFolder(rootName: string, relative: string): Promise<{ brief: Brief | null; files: number; bytes: number }> {
  const root = findRoot(services().config.roots, rootName);
  const folder = resolveInside(root, relative);
  const { files } = await listFolder(folder, { stats: true });
  const bytes = files.reduce((sum, file) => sum + file.size, 0);
  const brief = proposeBrief(files, path.basename(folder));
  if (!brief) return { brief: null, files: files.length, bytes };
  const facts = new Map<string, FileFacts>();
  for (const file of sampleFiles(brief, files)) facts.set(file.path, inspectFile(folder, file.path, 'headers').facts);
  return { brief: withImpliedKinds(brief, files, (file) => facts.get(file.path) ?? null), files: files.length, bytes };
}
