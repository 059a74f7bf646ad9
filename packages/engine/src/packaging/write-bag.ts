import { createHash } from 'node:crypto';
import { closeSync, createReadStream } from 'node:fs';
import { mkdir, open, readdir, rename, rm, stat, statfs, utimes } from 'node:fs/promises';
import path from 'node:path';
import { BAG_DECLARATION, BagError, MintError, payloadOxum, writeBagInfo, writeManifest, type BagEntry } from '@mint-tally/core';
import type { CountedFile } from '../counting/count-folder.ts';
import { openInside } from '../files/roots.ts';

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
  /** The package's folder, which must not be there yet. */
  readonly target: string;
  /** Tells this write's unfinished folder from others beside it. */
  readonly aside: string;
  /** Written as JSON beside the frames in `data/`. */
  readonly documents: Readonly<Record<string, unknown>>;
  readonly info: readonly (readonly [label: string, value: string])[];
  readonly stopped: () => boolean;
  readonly onProgress: (progress: { done: number; total: number; bytesDone: number; bytesTotal: number }) => void;
}

export interface WrittenBag {
  readonly files: number;
  readonly bytes: number;
  readonly manifestSha256: string;
}

const PIECE = 1 << 20;
const FILES_AT_ONCE = 4;

/**
 * Writes a package folder by BagIt (RFC 8493). It is made under another name beside the target and
 * renamed when every byte is on the disk, so that the final name never holds half a package; what
 * a stopped or failed write made is removed. Each file is hashed as it is copied and held against
 * its checksum from the count.
 *
 * @returns null when it was stopped
 * @throws PackageError, BagError, FileAccessError
 */
export async function writeBag(options: BagOptions): Promise<WrittenBag | null> {
  const { files, target } = options;
  const bytesTotal = files.reduce((sum, file) => sum + file.size, 0);
  // Names that a manifest cannot hold are told before anything is copied.
  writeManifest(files.map(({ path: name }) => ({ path: `data/${name}`, sha256: '' })));
  const clash = files.find((file) => Object.hasOwn(options.documents, file.path));
  if (clash) throw new BagError(`A frame is called ${clash.path}, which is the package’s own document.`, clash.path);
  await refuseExisting(target);
  await needSpace(path.dirname(target), bytesTotal);
  const partial = path.join(path.dirname(target), `.${path.basename(target)}.unfinished-${options.aside}`);
  await rm(partial, { recursive: true, force: true });
  try {
    await mkdir(path.join(partial, 'data'), { recursive: true });
    const entries = await copyAll(options, path.join(partial, 'data'), bytesTotal);
    if (!entries) return await abandon(partial);
    const written = await describe(options, partial, entries);
    await syncFolders(partial);
    if (options.stopped()) return await abandon(partial);
    // Looked at again: copying took its time, and a rename would replace an empty folder unasked.
    await refuseExisting(target);
    await rename(partial, target);
    return written;
  } catch (thrown) {
    await rm(partial, { recursive: true, force: true });
    throw thrown instanceof MintError ? thrown : systemError(thrown, target);
  }
}

async function abandon(partial: string): Promise<null> {
  await rm(partial, { recursive: true, force: true });
  return null;
}

async function refuseExisting(target: string): Promise<void> {
  const there = await stat(target).catch(() => null);
  if (there) throw new PackageError('package-exists', `There is a folder ${path.basename(target)} already.`, target, 'Give the package another name.');
}

async function needSpace(folder: string, bytes: number): Promise<void> {
  const { bavail, bsize } = await statfs(folder);
  const free = bavail * bsize;
  if (free < bytes * 1.01) {
    const gigabytes = (value: number) => `${(value / 1e9).toFixed(1)} GB`;
    throw new PackageError(
      'disk-short',
      `The package needs ${gigabytes(bytes)}, and ${gigabytes(free)} are free.`,
      folder,
      'Make room, or choose another folder.',
    );
  }
}

async function copyAll(options: BagOptions, data: string, bytesTotal: number): Promise<(BagEntry & { size: number })[] | null> {
  const { files, source, stopped } = options;
  const entries: (BagEntry & { size: number })[] = [];
  const progress = { done: 0, total: files.length, bytesDone: 0, bytesTotal };
  const iterator = files[Symbol.iterator]();
  const lane = async () => {
    for (let next = iterator.next(); !next.done && !stopped(); next = iterator.next()) {
      const file = next.value;
      const sha256 = await copyFile(source, file, path.join(data, file.path));
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

async function copyFile(source: string, file: CountedFile, target: string): Promise<string> {
  const { descriptor, stats } = openInside(source, file.path);
  const hash = createHash('sha256');
  try {
    await mkdir(path.dirname(target), { recursive: true });
    const to = await open(target, 'wx');
    try {
      for await (const piece of createReadStream('', { fd: descriptor, autoClose: false, highWaterMark: PIECE })) {
        hash.update(piece as Buffer);
        await to.writeFile(piece as Buffer);
      }
      await to.sync();
    } finally {
      await to.close();
    }
  } finally {
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
  await utimes(target, stats.atime, stats.mtime);
  return sha256;
}

/** Writes the documents, the manifests and the declaration around the copied frames. */
async function describe(options: BagOptions, partial: string, frames: readonly (BagEntry & { size: number })[]): Promise<WrittenBag> {
  const payload = [...frames];
  for (const [name, value] of Object.entries(options.documents)) {
    const text = `${JSON.stringify(value, null, 2)}\n`;
    payload.push({ path: `data/${name}`, sha256: await writeText(partial, `data/${name}`, text), size: Buffer.byteLength(text) });
  }
  const sizes = payload.map((entry) => entry.size);
  const manifest = writeManifest(payload);
  const tags: [name: string, text: string][] = [
    ['bagit.txt', BAG_DECLARATION],
    ['bag-info.txt', writeBagInfo([...options.info, ['Payload-Oxum', payloadOxum(sizes)]])],
    ['manifest-sha256.txt', manifest],
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
async function writeText(folder: string, name: string, text: string): Promise<string> {
  const file = await open(path.join(folder, name), 'wx');
  try {
    await file.writeFile(text);
    await file.sync();
  } finally {
    await file.close();
  }
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
  if (code === 'ENOSPC') return new PackageError('disk-short', 'The disk is full.', target, 'Make room, or choose another folder.');
  if (code === 'ENOTEMPTY' || code === 'ENOTDIR')
    return new PackageError('package-exists', `There is a folder ${path.basename(target)} already.`, target, 'Give the package another name.');
  return new PackageError(
    'package-failed',
    `The package cannot be written (${code}).`,
    target,
    'Check the permissions and the disk of the folder that it goes to.',
  );
}
