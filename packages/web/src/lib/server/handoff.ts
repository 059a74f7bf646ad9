import { existsSync } from 'node:fs';
import path from 'node:path';
import { composeNote, coversFinding, describeChanges, joinChanges, sayWaivers, type NoteFacts } from '@mint-tally/core';
import { findArrival, listChangesAfter, listMovies, listReceipts, listSheets, newestPackagePlace, newestStamp, readAssay, type Shot } from '@mint-tally/store';
import type { MovieView, PackageView, SheetView, StampView } from '$lib/handoff/handoff-view';
import { services } from './services';
import type { ShotState } from './shot-state';

/** What the page of the handoff shows beside the shot's state. */
export async function readHandoff(state: ShotState) {
  const { config, database } = services();
  const shotId = state.shot.id;
  const writable = config.roots.filter((root) => root.writable).map(({ name, path }) => ({ name, path }));
  const [arrival, stamp, movies, sheets, receipts, last, assay] = await Promise.all([
    findArrival(database, shotId),
    readStamp(state),
    listMovies(database, shotId),
    listSheets(database, shotId),
    listReceipts(database, shotId),
    newestPackagePlace(database),
    state.assay ? readAssay(database, shotId) : null,
  ]);
  const place = proposePlace(writable, state.shot, last);
  const pathOf = (root: string, below: string) => {
    const found = config.roots.find(({ name }) => name === root);
    return found ? path.join(found.path, below) : null;
  };
  const isThere = ({ root, file }: { root: string; file: string }) => {
    const full = pathOf(root, file);
    return full !== null && existsSync(full);
  };
  return {
    /** The package that the shot was opened from; null for one that is made here. */
    arrived: arrival && { place: pathOf(arrival.root, arrival.folder) ?? `${arrival.root}: ${arrival.folder}`, receipt: arrival.receipt },
    roots: writable,
    allRoots: config.roots.map(({ name, path }) => ({ name, path })),
    stamp,
    note: composeNote(noteFacts(state, assay?.vectors?.says ?? null)),
    proposedRoot: place.root,
    proposedFolder: joinFolders(place.folder, `${asName(state.shot.name)}_package_${number(state.packages.length + 1)}`),
    proposedMovie: joinFolders(place.folder, `${asName(state.shot.name)}_${number(movies.length + 1)}`),
    proposedSheet: joinFolders(place.folder, `${asName(state.shot.name)}_sheet_${number(sheets.length + 1)}`),
    movies: movies.map((movie): MovieView => ({ ...movie, at: movie.createdAt.toISOString(), isThere: isThere(movie) })),
    sheets: sheets.map((sheet): SheetView => ({ ...sheet, at: sheet.createdAt.toISOString(), isThere: isThere(sheet) })),
    packages: state.packages.map((one): PackageView => ({
      ...one,
      path: pathOf(one.root, one.folder),
      at: new Date(one.createdAt).toISOString(),
      receipts: receipts.flatMap(({ packageId, receipt }) => (packageId === one.id ? [receipt] : [])),
    })),
    /** Receipts of packages that are none of the shot's. */
    strays: receipts.flatMap(({ packageId, receipt }) => (packageId === null ? [receipt] : [])),
  };
}

const number = (count: number) => String(count).padStart(3, '0');
const asName = (name: string) => name.replace(/[^A-Za-z0-9_-]+/g, '_');
const joinFolders = (folder: string, name: string) => (folder === '' ? name : `${folder}/${name}`);

async function readStamp(state: ShotState): Promise<StampView | null> {
  const { database } = services();
  const stamp = await newestStamp(database, state.shot.id);
  if (!stamp) return null;
  const holds = state.count !== null && stamp.content === state.count.content;
  const changes = holds ? '' : describeChanges(joinChanges(await listChangesAfter(database, state.shot.id, stamp.createdAt)));
  const { id, kind, person, note } = stamp;
  return { id, kind, person, note, at: stamp.createdAt.toISOString(), broken: holds ? '' : changes || 'the frames are others now' };
}

/** Where the last package of any shot went; without one a root that the frames are not in, else a folder of its own beside them. */
function proposePlace(roots: readonly { name: string }[], shot: Shot, last: { root: string; folder: string } | null): { root: string; folder: string } {
  if (last && roots.some(({ name }) => name === last.root)) {
    const folder = path.posix.dirname(last.folder);
    return { root: last.root, folder: folder === '.' ? '' : folder };
  }
  const other = roots.find(({ name }) => name !== shot.root);
  return other ? { root: other.name, folder: '' } : { root: roots[0]?.name ?? '', folder: 'packages' };
}

/** What a note to the compositor is put together from. */
function noteFacts({ brief, findings, waivers, assay, count }: ShotState, vectors: string | null): NoteFacts {
  return {
    ...{ brief, findings, vectors, isAssayed: assay !== null },
    isWaived: (finding) => waivers.some(({ subject }) => coversFinding(subject, finding)),
    waivers: sayWaivers(waivers, findings, count?.content ?? ''),
  };
}

/** Whether something would stand among the frames that it is made of. */
export function isAmongFrames(shot: Shot, root: string, folder: string): boolean {
  return root === shot.root && (shot.folder === '' || folder === shot.folder || folder.startsWith(`${shot.folder}/`));
}
