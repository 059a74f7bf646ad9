import { createHash } from 'node:crypto';
import { closeSync } from 'node:fs';
import { open, readdir, rename, rm, statfs } from 'node:fs/promises';
import path from 'node:path';
import { BAG_DECLARATION, BagError, MintError, payloadOxum, writeBagInfo, writeManifest, type BagEntry, sayBytes } from '@mint-tally/core';
import { accessError, copyInto, writeWhole, type HeldFolder } from '@mint-tally/disk';
import type { CountedFile } from '../counting/count-folder.ts';
import { openInside } from '../files/roots.ts';
import { unfinishedName } from './unfinished.ts';

/** Raised when a package cannot be written. */
export class PackageError extends MintError {
  constructor(code: 'package-exists' | 'disk-short' | 'changed-since-count' | 'package-failed', message: string, subject: string, remedy: string) {
    super(code, message, { subject, remedy });
  }
}

export interface BagOptions {
  /** Real path of the folder that the files are in. */
  readonly source: string;
  readonly files: readonly CountedFile[];
  /** The folder that the package is made in. */
  readonly parent: HeldFolder;
  /** The package's name there, which must not be taken. */
  readonly name: string;
  /** Tells this write's unfinished folder from others beside it. */
  readonly aside: string;
  /** Written beside the frames in `data/`: texts as they are, anything else as JSON. */
  readonly documents: Readonly<Record<string, unknown>>;
  readonly info: readonly (readonly [label: string, value: string])[];
  readonly stopped: () => boolean;
  readonly onProgress: (progress: { done: number; total: number; bytesDone: number; bytesTotal: number }) => void;
  /** Called when every byte is on the disk, right before the package gets its name; what it throws keeps it from that. */
  readonly onWhole: (written: WrittenBag) => Promise<void>;
}

export interface WrittenBag {
  readonly files: number;
  readonly bytes: number;
  readonly manifestSha256: string;
}

export const MANIFEST = 'manifest-sha256.txt';
const FILES_AT_ONCE = 4;

/**
 * Writes a package folder by BagIt (RFC 8493). It is made under another name beside the target and
 * renamed when every byte is on the disk, so that the final name never holds half a package; what
 * a stopped or failed write made is removed. Each file is hashed as it is copied and held against
 * its checksum from the count.
 *
 * @returns null when it was stopped
 * @throws PackageError, BagError, FileAccessError, and what `onWhole` throws
 */
export async function writeBag(options: BagOptions): Promise<WrittenBag | null> {
  const { files, parent, name } = options;
  const bytesTotal = files.reduce((sum, file) => sum + file.size, 0);
  // Names that a manifest cannot hold are told before anything is copied.
  writeManifest(files.map(({ path: file }) => ({ path: `data/${file}`, sha256: '' })));
  const clash = files.find((file) => Object.hasOwn(options.documents, file.path));
  if (clash) throw new BagError(`A frame is called ${clash.path}, which is the package’s own document.`, clash.path);
  refuseExisting(parent, name);
  await needSpace(parent, bytesTotal);
  const partialName = unfinishedName(name, options.aside);
  const throwAway = () => rm(parent.at(partialName), { recursive: true, force: true });
  await throwAway();
  let partial: HeldFolder | null = null;
  try {
    partial = parent.below(partialName);
    const written = await fill(options, partial, bytesTotal);
    if (written && !options.stopped()) {
      await options.onWhole(written);
      // Looked at again: copying took its time, and a rename would replace an empty folder unasked.
      refuseExisting(parent, name);
      await rename(parent.at(partialName), parent.at(name));
      parent.sync();
      return written;
    }
    await throwAway();
    return null;
  } catch (thrown) {
    await throwAway();
    throw thrown instanceof MintError ? thrown : systemError(thrown, path.join(parent.path, name));
  } finally {
    partial?.close();
  }
}

/** Everything that is in the package; null when it was stopped. */
async function fill(options: BagOptions, partial: HeldFolder, bytesTotal: number): Promise<WrittenBag | null> {
  const data = partial.below('data');
  try {
    const entries = await copyAll(options, data, bytesTotal);
    if (!entries) return null;
    const written = await describe(options, partial, data, entries);
    await syncFolders(partial.where());
    return written;
  } finally {
    data.close();
  }
}

function refuseExisting(parent: HeldFolder, name: string): void {
  if (parent.has(name))
    throw new PackageError('package-exists', `There is a folder ${name} already.`, path.join(parent.path, name), 'Give the package another name.');
}

async function needSpace(folder: HeldFolder, bytes: number): Promise<void> {
  const { bavail, bsize } = await statfs(folder.where());
  const free = bavail * bsize;
  if (free < bytes * 1.01) {
    throw new PackageError(
      'disk-short',
      `The package needs ${sayBytes(bytes)}, and ${sayBytes(free)} are free.`,
      folder.path,
      'Make room, or choose another folder.',
    );
  }
}

async function copyAll(options: BagOptions, data: HeldFolder, bytesTotal: number): Promise<(BagEntry & { size: number })[] | null> {
  const { files, source, stopped } = options;
  const entries: (BagEntry & { size: number })[] = [];
  const progress = { done: 0, total: files.length, bytesDone: 0, bytesTotal };
  const iterator = files[Symbol.iterator]();
  const lane = async () => {
    for (let next = iterator.next(); !next.done && !stopped(); next = iterator.next()) {
      const file = next.value;
      const sha256 = await copyFile(source, file, data);
      entries.push({ path: `data/${file.path}`, sha256, size: file.size });
      progress.done++;
      progress.bytesDone += file.size;
      options.onProgress({ ...progress });
    }
  };
  const lanes = await Promise.allSettled(Array.from({ length: FILES_AT_ONCE }, lane));
  const failed = lanes.find((result) => result.status === 'rejected');
  if (failed) throw failed.reason;
  return entries.length === files.length ? entries : null;
}

async function copyFile(source: string, file: CountedFile, data: HeldFolder): Promise<string> {
  const { descriptor, stats } = openInside(source, file.path);
  const hash = createHash('sha256');
  const folder = data.below(path.dirname(file.path));
  try {
    await copyInto(folder, path.basename(file.path), { descriptor, atime: stats.atime, mtime: stats.mtime }, (piece) => hash.update(piece));
  } finally {
    folder.close();
    closeSync(descriptor);
  }
  const sha256 = hash.digest('hex');
  if (sha256 !== file.sha256) {
    throw new PackageError(
      'changed-since-count',
      `${file.path} changed after it was counted.`,
      file.path,
      'Wait until nothing writes to the folder, then write the package again.',
    );
  }
  return sha256;
}

/** Writes the documents, the manifests and the declaration around the copied frames. */
async function describe(options: BagOptions, partial: HeldFolder, data: HeldFolder, frames: readonly (BagEntry & { size: number })[]): Promise<WrittenBag> {
  const payload = [...frames];
  for (const [name, value] of Object.entries(options.documents)) {
    const text = typeof value === 'string' ? value : `${JSON.stringify(value, null, 2)}\n`;
    payload.push({ path: `data/${name}`, sha256: await writeText(data, name, text), size: Buffer.byteLength(text) });
  }
  const sizes = payload.map((entry) => entry.size);
  const manifest = writeManifest(payload);
  const tags: [name: string, text: string][] = [
    ['bagit.txt', BAG_DECLARATION],
    ['bag-info.txt', writeBagInfo([...options.info, ['Payload-Oxum', payloadOxum(sizes)]])],
    [MANIFEST, manifest],
  ];
  const entries: BagEntry[] = [];
  for (const [name, text] of tags) entries.push({ path: name, sha256: await writeText(partial, name, text) });
  await writeText(partial, 'tagmanifest-sha256.txt', writeManifest(entries));
  return {
    files: payload.length,
    bytes: sizes.reduce((sum, size) => sum + size, 0),
    manifestSha256: createHash('sha256').update(manifest).digest('hex'),
  };
}

/** Writes a text to the disk for good and gives its checksum. */
async function writeText(folder: HeldFolder, name: string, text: string): Promise<string> {
  await writeWhole(folder, name, text);
  return createHash('sha256').update(text).digest('hex');
}

/** Makes the names in all folders last: a file's own sync does not. */
async function syncFolders(folder: string): Promise<void> {
  for (const entry of await readdir(folder, { withFileTypes: true })) if (entry.isDirectory()) await syncFolders(path.join(folder, entry.name));
  const handle = await open(folder, 'r');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

function systemError(thrown: unknown, target: string): PackageError {
  const code = (thrown as NodeJS.ErrnoException).code ?? String(thrown);
  if (code === 'ENOTEMPTY' || code === 'ENOTDIR' || code === 'EEXIST')
    return new PackageError('package-exists', `There is a folder ${path.basename(target)} already.`, target, 'Give the package another name.');
  const { message, remedy } = accessError(thrown, target);
  return new PackageError('package-failed', `The package cannot be written. ${message}`, target, remedy);
}
