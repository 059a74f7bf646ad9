import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { DENOISED_NOTE, DENOISED_SOURCE, formatFrameRange, FrameSet, memorySource, MintError, recogniseFormat } from '@mint-tally/core';
import { FileAccessError } from '@mint-tally/disk';
import { withFile } from '../inspection/inspect-file.ts';

/** A checksum of a file's content, as the headers keep it. */
export const contentOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

/** A file that is wanted, and what it is made of. */
export interface WantedFile {
  readonly frame: number;
  /** Relative to the shot's folder. */
  readonly source: string;
  /** Path of the file. */
  readonly target: string;
  /** What its header says of the settings. */
  readonly settings: string;
}

/**
 * Paths of the files that have been written before, by the same settings and of the same originals.
 *
 * @throws FileAccessError where something else lies in the way of a file, or where its original does
 */
export function filesThere(folder: string, wanted: readonly WantedFile[]): Set<string> {
  const there = new Set<string>();
  const inTheWay: WantedFile[] = [];
  const names = new Map<string, string>();
  for (const file of wanted) {
    const { source, target, settings } = file;
    if (target === path.join(folder, source)) throw new FileAccessError('file-in-the-way', `${target} is the original.`, source);
    const other = names.get(target);
    if (other) throw new FileAccessError('file-in-the-way', `${other} and ${source} would both be ${path.basename(target)}.`, source);
    names.set(target, source);
    const found = notesAt(target);
    if (found === null) continue;
    if (found[DENOISED_NOTE] === settings && found[DENOISED_SOURCE] === withFile(folder, source, (held) => contentOf(held.read(0, held.size))))
      there.add(target);
    else inTheWay.push(file);
  }
  if (inTheWay.length > 0) {
    const where = path.dirname(inTheWay[0]!.target);
    const frames = FrameSet.of(inTheWay.filter(({ target }) => path.dirname(target) === where).map(({ frame }) => frame));
    throw new MintError('file-in-the-way', `${where} holds other files for the frames ${formatFrameRange(frames)}.`, {
      subject: where,
      remedy: 'Name another folder, or take them away.',
    });
  }
  return there;
}

/** What the header of a file says; null where there is none, and nothing of one that is no frame. */
function notesAt(file: string): Readonly<Record<string, string | number>> | null {
  let bytes: Uint8Array;
  try {
    bytes = readFileSync(file);
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code === 'ENOENT') return null;
    throw thrown;
  }
  try {
    const source = memorySource(bytes);
    const open = recogniseFormat(source, file).open(source);
    open.check();
    return open.header.metadata;
  } catch (thrown) {
    if (thrown instanceof MintError) return {};
    throw thrown;
  }
}
