import { createHash, subtle } from 'node:crypto';
import { closeSync, fstatSync, readSync } from 'node:fs';
import {
  FACTS_EDITION,
  FrameFileError,
  inspectFrameFile,
  memorySource,
  memoryToInspect,
  MintError,
  sayBytes,
  SourceError,
  type ByteSource,
  type DecodedFrame,
  type FileFacts,
} from '@mint-tally/core';
import { openInside } from '../files/roots.ts';
import { withRetries } from '../files/retry.ts';
import { codecTools } from './codec-tools.ts';

/** What one look at a file on disk gives; `Sum` is the checksum, or the promise of it. */
export interface FileInspection<Sum = string> {
  readonly facts: FileFacts;
  /** Of the whole file, hexadecimal; null unless every byte was read. */
  readonly sha256: Sum | null;
  readonly frame: DecodedFrame | null;
}

/** The most that can be held in one piece. */
const MAXIMUM_WHOLE_READ = 2 ** 31 - 1;

/**
 * Looks at a file: at level `headers` with as few reads as possible; at level `full` every byte is
 * read once, and hash, structure and pixels come from the same bytes. Whatever happens becomes
 * facts; nothing is thrown.
 *
 * @param folder real path of the shot's folder
 * @param relative path of the file below it
 */
export function inspectFile(folder: string, relative: string, level: 'headers' | 'full'): FileInspection {
  return inspectHashing(folder, relative, level, (bytes) => createHash('sha256').update(bytes).digest('hex'));
}

/** The same at level `full`, while another thread makes the checksum: sooner, where a processor has nothing else to do. */
export async function inspectFileAlone(folder: string, relative: string): Promise<FileInspection> {
  const found = inspectHashing(folder, relative, 'full', async (bytes) => Buffer.from(await subtle.digest('SHA-256', bytes)).toString('hex'));
  return { ...found, sha256: await found.sha256 };
}

function inspectHashing<Sum>(folder: string, relative: string, level: 'headers' | 'full', hash: Hash<Sum>): FileInspection<Sum> {
  try {
    // A share that stumbles now and then is asked again before a file is given up.
    return withRetries(() => inspectOpened(folder, relative, level, hash));
  } catch (thrown) {
    return unreadable(level, thrown);
  }
}

type Hash<Sum> = (bytes: Uint8Array) => Sum;

/** @throws when the file cannot be opened or read */
function inspectOpened<Sum>(folder: string, relative: string, level: 'headers' | 'full', hash: Hash<Sum>): FileInspection<Sum> {
  const { descriptor, stats } = openInside(folder, relative);
  try {
    if (level === 'headers') return { ...look(fileSource(descriptor, stats.size), relative, level), sha256: null, frame: null };
    const bytes = fileSource(descriptor, stats.size).read(0, stats.size);
    const after = fstatSync(descriptor);
    if (after.size !== stats.size || after.mtimeMs !== stats.mtimeMs) {
      return failed(level, 'still-writing', 'The file changed while it was read.');
    }
    // Begun first, so that it can go on beside the look.
    const sha256 = hash(bytes);
    return { ...look(memorySource(bytes), relative, level), sha256 };
  } catch (thrown) {
    if (thrown instanceof FrameFileError) return failed(level, 'still-writing', 'The file became shorter while it was read.');
    throw thrown;
  } finally {
    closeSync(descriptor);
  }
}

/** Looks at a source; an error of our own goes to the log with its trace, since no person could do anything about it. */
function look(source: ByteSource, relative: string, level: 'headers' | 'full'): Omit<FileInspection, 'sha256'> {
  const { facts, frame, unexpected } = inspectFrameFile(source, relative, level, codecTools);
  if (unexpected !== undefined)
    process.stderr.write(`engine: unexpected, while looking into ${relative}: ${(unexpected as Error)?.stack ?? String(unexpected)}\n`);
  return { facts, frame };
}

/** What a full look at a file would take. */
export interface MemoryNeed {
  /** File and pixels together. */
  readonly bytes: number;
  /** Of the file alone. */
  readonly size: number;
}

/** What a full look at a file would take; null when the file cannot be opened or read. */
export function memoryNeeded(folder: string, relative: string): MemoryNeed | null {
  try {
    return withFile(folder, relative, (source) => ({
      size: source.size,
      bytes: source.size > MAXIMUM_WHOLE_READ ? Infinity : memoryToInspect(source, relative),
    }));
  } catch {
    return null;
  }
}

/**
 * Looks at a file that is too large to be held: its header, its structure and its checksum, piece by
 * piece. Its pixels are not examined, which is said with its size.
 *
 * @param budget bytes that could be had
 */
export function inspectWithoutPixels(folder: string, relative: string, { size, bytes }: MemoryNeed, budget: number): FileInspection {
  const { facts } = inspectFile(folder, relative, 'headers');
  const takes = Number.isFinite(bytes) ? `, and would take ${sayBytes(bytes)} to look into` : '';
  const notExamined = `The file has ${sayBytes(size)}${takes}; ${sayBytes(budget)} are set for that. Its pixels were not looked into.`;
  try {
    const sha256 = withFile(folder, relative, (source) => {
      const hash = createHash('sha256');
      for (let offset = 0; offset < source.size; offset += PIECE) hash.update(source.read(offset, Math.min(PIECE, source.size - offset)));
      return hash.digest('hex');
    });
    return { facts: { ...facts, level: 'full', notExamined }, sha256, frame: null };
  } catch (thrown) {
    return unreadable('full', thrown);
  }
}

const PIECE = 1 << 22;

function unreadable(level: 'headers' | 'full', thrown: unknown): FileInspection<never> {
  const message = thrown instanceof MintError ? thrown.message : `The file cannot be read: ${(thrown as Error).message}.`;
  return failed(level, 'unreadable', message);
}

function failed(level: 'headers' | 'full', code: 'unreadable' | 'still-writing', message: string): FileInspection<never> {
  return {
    facts: { edition: FACTS_EDITION, level, problem: { code, message }, header: null, trailingBytes: 0, notExamined: null, pixels: null, holes: [] },
    sha256: null,
    frame: null,
  };
}

/**
 * Lets something read a file below a folder, and closes it afterwards.
 *
 * @throws FileAccessError, and whatever the reading throws
 */
export function withFile<Result>(folder: string, relative: string, read: (source: ByteSource) => Result): Result {
  const { descriptor, stats } = openInside(folder, relative);
  try {
    return read(fileSource(descriptor, stats.size));
  } finally {
    closeSync(descriptor);
  }
}

function readSome(descriptor: number, bytes: Uint8Array, at: number, length: number, position: number): number {
  try {
    return readSync(descriptor, bytes, at, length, position);
  } catch (thrown) {
    throw new SourceError(thrown);
  }
}

/** Reads pieces of an open file; the size is that of the moment of opening. */
export function fileSource(descriptor: number, size: number): ByteSource {
  return {
    size,
    read(offset, length) {
      const bytes = Buffer.allocUnsafe(Math.min(length, size));
      let done = 0;
      while (done < length) {
        const count = readSome(descriptor, bytes, done, length - done, offset + done);
        if (count === 0) throw new FrameFileError('truncated', `The file ends at byte ${offset + done}; ${offset + length} are needed.`);
        done += count;
      }
      return bytes;
    },
  };
}
