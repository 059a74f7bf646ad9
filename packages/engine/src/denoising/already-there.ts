import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { formatFrameRange, FrameSet, memorySource, MintError, recogniseFormat } from '@mint-tally/core';
import { FileAccessError } from '@mint-tally/disk';
import { withFile } from '../inspection/inspect-file.ts';

/** What a frame's header says of how it was made: by these settings, of a file with this content. */
export const SETTINGS_NOTE = 'denoised';
export const SOURCE_NOTE = 'denoisedSource';

/** A checksum of a file's content, as the headers keep it. */
export const contentOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

/** A frame that is wanted, and where it would be written. */
export interface WantedFrame {
  readonly frame: number;
  /** Relative to the shot's folder. */
  readonly source: string;
  /** Path of the file. */
  readonly target: string;
}

/**
 * The frames that have been written before, by the same settings and of the same files.
 *
 * @throws FileAccessError where something else lies in the way of a frame, or where its original does
 */
export function framesThere(folder: string, wanted: readonly WantedFrame[], settings: string): Set<number> {
  const kept = new Set<number>();
  const inTheWay: number[] = [];
  const names = new Map<string, string>();
  for (const { frame, source, target } of wanted) {
    if (target === path.join(folder, source)) throw new FileAccessError('file-in-the-way', `${target} is the original.`, source);
    const other = names.get(target);
    if (other) throw new FileAccessError('file-in-the-way', `${other} and ${source} would both be ${path.basename(target)}.`, source);
    names.set(target, source);
    const found = notesAt(target);
    if (found === null) continue;
    if (found[SETTINGS_NOTE] === settings && found[SOURCE_NOTE] === withFile(folder, source, (file) => contentOf(file.read(0, file.size)))) kept.add(frame);
    else inTheWay.push(frame);
  }
  if (inTheWay.length > 0) {
    const where = path.dirname(wanted[0]!.target);
    throw new MintError('file-in-the-way', `${where} holds other files for the frames ${formatFrameRange(FrameSet.of(inTheWay))}.`, {
      subject: where,
      remedy: 'Name another folder, or take them away.',
    });
  }
  return kept;
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
