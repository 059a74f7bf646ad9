import path from 'node:path';
import { MintError } from '@mint-tally/core';
import { findRoot, openInside, resolveInside, type OpenFile } from '@mint-tally/engine';
import { listMovies, listPackages, listSheets } from '@mint-tally/store';
import { services } from './services';

/** Entries of a shot that are looked through for one. */
const MOST = 10_000;

const gone = (what: string) =>
  new MintError('not-found', `The ${what} is not where it was written.`, { remedy: 'Make it again, or look where it was moved to.' });

/** A movie or a contact sheet of a shot, opened. @throws MintError where there is none any more */
export async function openMade(shotId: number, kind: 'movie' | 'sheet', id: number): Promise<{ file: OpenFile; name: string }> {
  const { database } = services();
  const made = await (kind === 'movie' ? listMovies(database, shotId, MOST) : listSheets(database, shotId, MOST));
  const one = made.find((candidate) => candidate.id === id);
  if (!one) throw new MintError('not-found', `There is no such ${kind}.`);
  return openBelow(one.root, '', one.file, kind);
}

/**
 * A file of a package of a shot, opened: the tar itself, or what lies in its folder.
 *
 * @param below path inside the package; empty for a package that is one file
 * @throws MintError where there is none any more
 */
export async function openOfPackage(shotId: number, id: number, below: string): Promise<{ file: OpenFile; name: string }> {
  const one = (await listPackages(services().database, shotId)).find((candidate) => candidate.id === id);
  if (!one) throw new MintError('not-found', 'There is no such package.');
  if (below === '') return openBelow(one.root, path.posix.dirname(one.folder), path.posix.basename(one.folder), 'package');
  return openBelow(one.root, one.folder, below, 'package');
}

function openBelow(root: string, folder: string, below: string, what: string): { file: OpenFile; name: string } {
  const { config } = services();
  try {
    return { file: openInside(resolveInside(findRoot(config.roots, root), folder === '.' ? '' : folder), below), name: path.posix.basename(below) };
  } catch (thrown) {
    // Somebody has moved it, or its root is none of ours any more: not a fault of the address.
    if (thrown instanceof MintError && thrown.code !== 'outside-root') throw gone(what);
    throw thrown;
  }
}
