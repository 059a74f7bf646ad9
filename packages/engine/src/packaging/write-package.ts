import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, renameSync } from 'node:fs';
import { rename, rm, statfs } from 'node:fs/promises';
import path from 'node:path';
import { BagError, folderInTar, MintError, sayBytes, writeManifest } from '@mint-tally/core';
import type { HeldFolder } from '@mint-tally/disk';
import { nameTaken, PackageError, packageFailure } from './errors.ts';
import { fillBag, type BagPart, type FilledBag } from './fill-bag.ts';
import { folderSink, tarSink, type Taking } from './sinks.ts';
import { summingBy, type ExtraSum } from './sums.ts';
import { unfinishedName } from './unfinished.ts';

export interface PackageOptions {
  /** Real path of the folder that the files are in. */
  readonly source: string;
  /** One bag, or several volumes. */
  readonly parts: readonly BagPart[];
  /** The folder that the package is made in. */
  readonly parent: HeldFolder;
  /** The package's name there, which must not be taken. */
  readonly name: string;
  readonly form: 'folder' | 'tar';
  readonly taking: Taking;
  readonly sums: readonly ExtraSum[];
  /** Tells this write's unfinished folder from others beside it. */
  readonly aside: string;
  /** Whether an unfinished folder of this name was begun by somebody who is gone, and can be gone on with. */
  readonly isLeft: (aside: string) => boolean;
  readonly stopped: () => boolean;
  /** Whether what was stopped is to be gone on with later. */
  readonly isKept: () => boolean;
  readonly onProgress: (progress: { done: number; total: number; bytesDone: number; bytesTotal: number }) => void;
  /** Called when every byte is on the disk, right before the package gets its name; what it throws keeps it from that. */
  readonly onWhole: (written: WrittenPackage) => Promise<void>;
}

export interface WrittenPackage {
  readonly files: number;
  readonly bytes: number;
  /** Of the manifest; of the manifests of all volumes one behind the other; of a tar file itself. */
  readonly manifestSha256: string;
  /** Checksums of the manifests, one a volume. */
  readonly manifests: readonly string[];
}

/** The folder or the file of one of several volumes. */
export const volumeName = (index: number, form: PackageOptions['form']) => `volume_${index + 1}${form === 'tar' ? '.tar' : ''}`;

/**
 * Writes a package by BagIt (RFC 8493): a folder, a tar file, or volumes of either. It is made under another name beside the target
 * and renamed when every byte is on the disk, so the final name never holds half a package. What somebody else began and did not
 * end is gone on with; what was stopped or failed is removed, unless it is to be gone on with later.
 *
 * @returns null when it was stopped
 * @throws PackageError, BagError, FileAccessError, and what `onWhole` throws
 */
export async function writePackage(options: PackageOptions): Promise<WrittenPackage | null> {
  const { parts, parent, name } = options;
  checkNames(parts);
  if (parent.has(name)) throw nameTaken(path.join(parent.path, name));
  const partialName = unfinishedName(name, options.aside);
  const throwAway = () => rm(parent.at(partialName), { recursive: true, force: true });
  claimUnfinished(options, partialName);
  await needSpace(options, partialName);
  let isKept = false;
  try {
    const written = await fillAll(options, partialName);
    if (!written || options.stopped()) {
      isKept = options.isKept();
      return null;
    }
    await options.onWhole(written);
    // Looked at again: copying took its time, and a rename would replace an empty folder unasked.
    if (parent.has(name)) throw nameTaken(path.join(parent.path, name));
    await rename(parent.at(partialName), parent.at(name));
    parent.sync();
    return written;
  } catch (thrown) {
    throw thrown instanceof MintError ? thrown : packageFailure(thrown, path.join(parent.path, name));
  } finally {
    if (!isKept) await throwAway();
  }
}

/** Names that a manifest cannot hold, or that our own documents bear, are told before anything is copied. */
function checkNames(parts: readonly BagPart[]): void {
  for (const { files, documents } of parts) {
    writeManifest(files.map(({ path: file }) => ({ path: `data/${file}`, sha256: '' })));
    const clash = files.find((file) => Object.hasOwn(documents, file.path));
    if (clash) throw new BagError(`A frame is called ${clash.path}, which is the package’s own document.`, clash.path);
  }
}

/** Takes what was left unfinished of the same package for its own, by its name: of two who try, one has it. */
function claimUnfinished({ parent, name, isLeft, form }: PackageOptions, partialName: string): void {
  const prefix = unfinishedName(name, '');
  for (const other of readdirSync(parent.where())) {
    if (!other.startsWith(prefix) || !isLeft(other.slice(prefix.length)) || other === partialName || form === 'tar') continue;
    try {
      renameSync(parent.at(other), parent.at(partialName));
      return;
    } catch {
      // Somebody else has it.
    }
  }
}

async function needSpace({ parent, parts, taking }: PackageOptions, partialName: string): Promise<void> {
  if (taking !== 'copy') return;
  const bytes = parts.reduce((sum, { files }) => sum + files.reduce((own, file) => own + file.size, 0), 0);
  const { bavail, bsize } = await statfs(parent.where());
  const free = bavail * bsize;
  // What lies there already needs no more room; whether it does, the copying finds out.
  if (free < bytes * 1.01 && !parent.has(partialName))
    throw new PackageError(
      'disk-short',
      `The package needs ${sayBytes(bytes)}, and ${sayBytes(free)} are free.`,
      parent.path,
      'Make room, or choose another folder.',
    );
}

async function fillAll(options: PackageOptions, partialName: string): Promise<WrittenPackage | null> {
  const { parts, parent, form, source, sums, stopped } = options;
  const progress = {
    ...{ done: 0, total: parts.reduce((sum, { files }) => sum + files.length, 0) },
    ...{ bytesDone: 0, bytesTotal: parts.reduce((sum, { files }) => sum + files.reduce((own, { size }) => own + size, 0), 0) },
  };
  const onFile = (bytes: number) => {
    progress.done++;
    progress.bytesDone += bytes;
    options.onProgress({ ...progress });
  };
  const filled: { bag: FilledBag; seal: string }[] = [];
  const fill = async (place: HeldFolder, part: BagPart, tarName: string | null, bagName: string) => {
    const summing = await summingBy(sums);
    const tar = tarName === null ? null : tarSink(place, tarName, bagName, summing);
    const bag = await fillBag(tar ?? folderSink(place, options.taking, summing), part, source, sums, stopped, onFile);
    if (bag) filled.push({ bag, seal: tar ? tar.digest() : bag.manifestSha256 });
    return bag !== null;
  };
  if (parts.length === 1 && form === 'tar') {
    if (!(await fill(parent, parts[0]!, partialName, folderInTar(options.name)))) return null;
  } else {
    if (!parent.has(partialName)) mkdirSync(parent.at(partialName));
    const place = parent.below(partialName);
    try {
      for (const [i, part] of parts.entries()) {
        const isWhole =
          parts.length === 1
            ? await fill(place, part, null, '')
            : await fillVolume(place, i, form, (into, tarName, bagName) => fill(into, part, tarName, bagName));
        if (!isWhole) return null;
      }
    } finally {
      place.close();
    }
  }
  return {
    files: filled.reduce((sum, { bag }) => sum + bag.files, 0),
    bytes: filled.reduce((sum, { bag }) => sum + bag.bytes, 0),
    manifestSha256: sealOf(filled.map(({ seal }) => seal)),
    manifests: filled.map(({ bag }) => bag.manifestSha256),
  };
}

async function fillVolume(
  place: HeldFolder,
  index: number,
  form: PackageOptions['form'],
  fill: (into: HeldFolder, tarName: string | null, bagName: string) => Promise<boolean>,
): Promise<boolean> {
  const bagName = volumeName(index, 'folder');
  if (form === 'tar') return fill(place, volumeName(index, 'tar'), bagName);
  const into = place.below(bagName);
  try {
    return await fill(into, null, bagName);
  } finally {
    into.close();
  }
}

/** What stands for all volumes: of one its own seal. */
export const sealOf = (seals: readonly string[]) => (seals.length === 1 ? seals[0]! : createHash('sha256').update(seals.join('\n')).digest('hex'));
