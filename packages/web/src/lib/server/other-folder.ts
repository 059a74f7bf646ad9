import { extensionOf, formatNamePattern, groupIntoSequences, isPictureExtension, MintError, type ListedFile } from '@mint-tally/core';
import { findRoot, listFolder, resolveInside, rootsToLookInto } from '@mint-tally/engine';
import { LRUCache } from 'lru-cache';
import type { OtherSequence } from '$lib/view/other-folder';
import type { PictureList } from '$lib/view/picture-list';
import { services } from './services';

/** Sequences told of one folder; one with more is not for picking by eye. */
const SHOWN = 300;

interface Found {
  readonly sequence: OtherSequence;
  readonly files: readonly { readonly frame: number; readonly file: ListedFile }[];
}

/** A folder is listed once for the question what is in it and the one for its files. */
const kept = new LRUCache<string, Promise<Found[]>>({ max: 8, ttl: 20_000 });

function look(root: string, folder: string): Promise<Found[]> {
  const place = resolveInside(findRoot(rootsToLookInto(services().config), root), folder);
  const known = kept.get(place);
  if (known) return known;
  const found = listFolder(place, { stats: true }).then(({ files }) => sortOut(files));
  kept.set(place, found);
  found.catch(() => kept.delete(place));
  return found;
}

function sortOut(files: readonly ListedFile[]): Found[] {
  const pictures = new Map(files.filter(({ path, kind }) => kind === 'file' && isPictureExtension(extensionOf(path))).map((file) => [file.path, file]));
  const { sequences, unnumbered } = groupIntoSequences(pictures.keys());
  const found = sequences.map((sequence): Found => {
    const own = sequence.files.map(({ path, frame }) => ({ frame, file: pictures.get(path)! }));
    const single = own.length === 1;
    const [first, last] = [own[0]!.frame, own.at(-1)!.frame];
    return { sequence: { name: single ? own[0]!.file.path : formatNamePattern(sequence), first, last, count: own.length, isStill: single }, files: own };
  });
  const stills = unnumbered.map((path): Found => ({
    sequence: { name: path, first: 0, last: 0, count: 1, isStill: true },
    files: [{ frame: 0, file: pictures.get(path)! }],
  }));
  return [...found, ...stills];
}

/** What can be compared with in a folder, the largest sequences first. @throws MintError */
export async function listOtherSequences(root: string, folder: string): Promise<OtherSequence[]> {
  return (await look(root, folder)).slice(0, SHOWN).map(({ sequence }) => sequence);
}

/** The files of one of them; of two for one frame the first. @throws MintError */
export async function listOtherPictures(root: string, folder: string, name: string): Promise<PictureList> {
  const found = (await look(root, folder)).find(({ sequence }) => sequence.name === name);
  if (!found) throw new MintError('not-found', `${folder || root} holds no ${name} any more.`);
  const files = found.files.filter(({ frame }, i, all) => frame !== all[i - 1]?.frame);
  return {
    frames: files.map(({ frame }) => frame),
    paths: files.map(({ file }) => file.path),
    sizes: files.map(({ file }) => file.size),
    modified: files.map(({ file }) => Math.floor(file.modified)),
    contents: files.map(() => ''),
  };
}
