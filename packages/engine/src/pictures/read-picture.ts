import { closeSync } from 'node:fs';
import {
  FrameFileError,
  memorySource,
  MintError,
  NotDecodedError,
  packPicture,
  pixelOf,
  recogniseFormat,
  writePictureMessage,
  type DecodedFrame,
  type PictureWish,
  type PixelValue,
} from '@mint-tally/core';
import { codecTools } from '../inspection/codec-tools.ts';
import { openInside } from '../files/roots.ts';
import { fileSource } from '../inspection/inspect-file.ts';

/** A file as whoever asks knows it: another one is not shown under its name. */
export interface KnownFrame {
  /** Real path of the shot's folder. */
  readonly folder: string;
  /** Of the file, below it. */
  readonly path: string;
  readonly size: number;
  /** Milliseconds since 1970, whole ones. */
  readonly modified: number;
}

/** A part of a frame's pixels that somebody wants to look at. */
export interface PictureTask extends KnownFrame, PictureWish {}

/** A pixel whose values somebody wants to know, in the display window. */
export interface PixelTask extends KnownFrame {
  readonly x: number;
  readonly y: number;
}

/**
 * Reads a frame's own pixels and packs the wanted part as a message for the screen.
 *
 * @throws MintError when the file is another one by now, is damaged, or cannot be looked into
 */
export function readPicture(task: PictureTask): Uint8Array<ArrayBuffer> {
  const packed = packPicture(decodeKnown(task), task);
  if (!packed) throw new MintError('no-channels', `${task.path} has none of the channels that are wanted.`, { subject: task.path });
  return writePictureMessage(packed);
}

/** Reads what every channel of a frame holds at a pixel. @throws MintError as `readPicture` does */
export function readPixel(task: PixelTask): PixelValue[] {
  return pixelOf(decodeKnown(task), task.x, task.y);
}

function decodeKnown(task: KnownFrame): DecodedFrame {
  const { descriptor, stats } = openInside(task.folder, task.path);
  try {
    if (stats.size !== task.size || Math.floor(stats.mtimeMs) !== task.modified) {
      throw new MintError('changed', `${task.path} has changed since it was counted.`, { subject: task.path, remedy: 'Count again.' });
    }
    const bytes = fileSource(descriptor, stats.size).read(0, stats.size);
    return recogniseFormat(memorySource(bytes), task.path).open(memorySource(bytes)).decode(codecTools).frame;
  } catch (thrown) {
    if (thrown instanceof FrameFileError || thrown instanceof NotDecodedError) {
      throw new MintError('no-picture', thrown.message, { subject: task.path, cause: thrown });
    }
    throw thrown;
  } finally {
    closeSync(descriptor);
  }
}
