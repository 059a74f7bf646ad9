import { closeSync } from 'node:fs';
import {
  FrameFileError,
  memorySource,
  MintError,
  NotDecodedError,
  packPicture,
  recogniseFormat,
  writePictureMessage,
  type PictureWish,
} from '@mint-tally/core';
import { codecTools } from '../inspection/codec-tools.ts';
import { openInside } from '../files/roots.ts';
import { fileSource } from '../inspection/inspect-file.ts';

/** A part of a frame's pixels that somebody wants to look at. */
export interface PictureTask extends PictureWish {
  /** Real path of the shot's folder. */
  readonly folder: string;
  /** Of the file, below it. */
  readonly path: string;
  /** The file as whoever asks knows it: another one is not shown under its name. */
  readonly size: number;
  /** Milliseconds since 1970, whole ones. */
  readonly modified: number;
}

/**
 * Reads a frame's own pixels and packs the wanted part as a message for the screen.
 *
 * @throws MintError when the file is another one by now, is damaged, or cannot be looked into
 */
export function readPicture(task: PictureTask): Uint8Array<ArrayBuffer> {
  const { descriptor, stats } = openInside(task.folder, task.path);
  try {
    if (stats.size !== task.size || Math.floor(stats.mtimeMs) !== task.modified) {
      throw new MintError('changed', `${task.path} has changed since it was counted.`, { subject: task.path, remedy: 'Count again.' });
    }
    const bytes = fileSource(descriptor, stats.size).read(0, stats.size);
    const { frame } = recogniseFormat(memorySource(bytes), task.path).open(memorySource(bytes)).decode(codecTools);
    const packed = packPicture(frame, task);
    if (!packed) throw new MintError('no-channels', `${task.path} has none of the channels that are wanted.`, { subject: task.path });
    return writePictureMessage(packed);
  } catch (thrown) {
    if (thrown instanceof FrameFileError || thrown instanceof NotDecodedError) {
      throw new MintError('no-picture', thrown.message, { subject: task.path, cause: thrown });
    }
    throw thrown;
  } finally {
    closeSync(descriptor);
  }
}
