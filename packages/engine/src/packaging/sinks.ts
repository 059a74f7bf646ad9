import { closeSync, constants, createWriteStream, fstatSync, lstatSync, openSync, readlinkSync, rmSync, type Stats } from 'node:fs';
import { copyFile, link, open, readdir } from 'node:fs/promises';
import path from 'node:path';
import type { Readable, Writable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { copyInto, openAnew, piecesOf, writeWhole, type HeldFolder } from '@mint-tally/disk';
import { once } from 'node:events';
import { pack, type Pack } from 'tar-stream';
import type { BeginSums, FileSums } from './sums.ts';

/** How a package takes the frames: as copies, as copies that share their blocks where the disk can do that, or as further names of the same files. */
export const takings = ['copy', 'clone', 'link'] as const;
export type Taking = (typeof takings)[number];

/** An open file that goes into a package. */
export interface OpenedFile {
  readonly descriptor: number;
  readonly stats: Stats;
}

/** Where the files of a bag go. */
export interface BagSink {
  /** Takes a file in, and gives the sums of what lies there now. @param expected sum of what should come, where it is known */
  readonly take: (file: string, from: OpenedFile, expected: string | null) => Promise<FileSums>;
  readonly write: (file: string, text: string) => Promise<void>;
  /** Makes everything last. */
  readonly finish: () => Promise<void>;
  /** Files that can be taken in at a time. */
  readonly lanes: number;
}

const LANES = 4;

/** A bag as a folder. Files that lie there already, of a write that was interrupted, are kept where they are what should come. */
export function folderSink(folder: HeldFolder, taking: Taking, summing: BeginSums): BagSink {
  return {
    lanes: LANES,
    async take(file, from, expected) {
      const place = folder.below(path.dirname(file));
      const name = path.basename(file);
      try {
        const there = expected === null ? null : await sumThere(place, name, from.stats.size, summing);
        if (there !== null && there.sha256 === expected) return there;
        if (there !== null || place.has(name)) rmSync(place.at(name), { force: true });
        return await takeInto(place, name, from, taking, summing);
      } finally {
        place.close();
      }
    },
    async write(file, text) {
      const place = folder.below(path.dirname(file));
      try {
        rmSync(place.at(path.basename(file)), { force: true });
        await writeWhole(place, path.basename(file), text);
      } finally {
        place.close();
      }
    },
    finish: () => syncFolders(folder.where()),
  };
}

/** The sums of a file that bears the name and has that size; null where there is none. */
async function sumThere(place: HeldFolder, name: string, size: number, summing: BeginSums): Promise<FileSums | null> {
  const stats = lstatSync(place.at(name), { throwIfNoEntry: false });
  if (!stats?.isFile() || stats.size !== size) return null;
  const descriptor = openSync(place.at(name), constants.O_RDONLY | constants.O_NOFOLLOW);
  try {
    return await sumOf(descriptor, size, summing);
  } finally {
    closeSync(descriptor);
  }
}

async function sumOf(descriptor: number, size: number, summing: BeginSums): Promise<FileSums> {
  const sums = summing(size);
  for await (const piece of piecesOf(descriptor)) sums.update(piece);
  return sums.digest();
}

async function takeInto(place: HeldFolder, name: string, { descriptor, stats }: OpenedFile, taking: Taking, summing: BeginSums): Promise<FileSums> {
  if (taking === 'link' && (await linked(place, name, descriptor))) return sumOf(descriptor, stats.size, summing);
  if (taking === 'clone') {
    // Where the disk cannot share blocks this copies.
    await copyFile(`/proc/self/fd/${descriptor}`, place.at(name), constants.COPYFILE_FICLONE | constants.COPYFILE_EXCL);
    const copy = await open(place.at(name), 'r+');
    try {
      await copy.utimes(stats.atime, stats.mtime);
      await copy.sync();
      return await sumOf(copy.fd, stats.size, summing);
    } finally {
      await copy.close();
    }
  }
  const sums = summing(stats.size);
  await copyInto(place, name, { descriptor, atime: stats.atime, mtime: stats.mtime }, sums.update);
  return sums.digest();
}

/** Gives the open file another name, where the disk and its rules allow that; false where a copy is needed. */
async function linked(place: HeldFolder, name: string, descriptor: number): Promise<boolean> {
  try {
    await link(readlinkSync(`/proc/self/fd/${descriptor}`), place.at(name));
  } catch {
    return false;
  }
  // Somebody may have put another file under the name meanwhile.
  if (lstatSync(place.at(name)).ino === fstatSync(descriptor).ino) return true;
  rmSync(place.at(name), { force: true });
  return false;
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

/**
 * A bag as one tar file, with the bag's folder in it (RFC 8493, section 4.2). One file at a time, straight from where it lies: no
 * second copy is needed on the way. What was interrupted begins anew.
 */
export function tarSink(folder: HeldFolder, name: string, bag: string, summing: BeginSums): BagSink & { readonly digest: () => string } {
  const archive: Pack = pack();
  const whole = summing();
  let sum = '';
  const descriptor = openAnew(folder.where(), name);
  const target = createWriteStream('', { fd: descriptor, autoClose: false });
  const written = pipeline(
    archive as unknown as Readable,
    async function* (pieces: AsyncIterable<Buffer>) {
      for await (const piece of pieces) {
        whole.update(piece);
        yield piece;
      }
    },
    target,
  );
  written.catch(() => undefined);
  const entry = async (file: string, size: number, mtime: Date, fill: (to: Writable) => Promise<void>) => {
    const to = archive.entry({ name: `${bag}/${file}`, size, mtime, mode: 0o644 }) as unknown as Writable;
    await fill(to);
    to.end();
    await Promise.race([once(to, 'finish'), written.then(() => undefined)]);
  };
  return {
    lanes: 1,
    async take(file, { descriptor: source, stats }) {
      const sums = summing(stats.size);
      await entry(file, stats.size, stats.mtime, async (to) => {
        for await (const piece of piecesOf(source)) {
          sums.update(piece);
          // Its buffer is filled anew when the next one is asked for.
          if (!to.write(Buffer.from(piece))) await Promise.race([once(to, 'drain'), written]);
        }
      });
      return sums.digest();
    },
    write: (file, text) =>
      entry(file, Buffer.byteLength(text), new Date(0), async (to) => {
        to.write(Buffer.from(text));
      }),
    async finish() {
      archive.finalize();
      try {
        await written;
        sum = (await whole.digest()).sha256;
        const handle = await open(folder.at(name), 'r');
        await handle.sync();
        await handle.close();
      } finally {
        closeSync(descriptor);
      }
    },
    digest: () => sum,
  };
}
