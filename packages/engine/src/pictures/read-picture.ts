import { closeSync, type Stats } from 'node:fs';
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
  type OpenFrame,
  type PictureWish,
  type PixelValue,
  type Salvaged,
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
export interface PictureTask extends KnownFrame, PictureWish {
  /** Whether a file that has none of the layer's channels shows what it has by itself: one of another folder may be built otherwise. */
  readonly elseAny?: boolean;
}

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
  const { frame, damage, problem } = decodeKnown(task);
  const packed = packPicture(frame, task) ?? (task.elseAny ? packPicture(frame, { ...task, layer: null }) : null);
  if (!packed) throw new MintError('no-channels', `${task.path} has none of the channels that are wanted.`, { subject: task.path });
  return writePictureMessage({ ...packed, info: { ...packed.info, damage, problem } });
}

/** Reads what every channel of a frame holds at a pixel. @throws MintError as `readPicture` does */
export function readPixel(task: PixelTask): PixelValue[] {
  return pixelOf(decodeKnown(task).frame, task.x, task.y);
}

interface Known {
  readonly frame: DecodedFrame;
  readonly damage: [number, number, number, number][];
  /** Empty for a sound file. */
  readonly problem: string;
}

/** Decodes a file as it was counted; of a damaged one as much as can be had. @throws MintError */
export function decodeKnown(task: KnownFrame): Known {
  return decodeHere(task.folder, task.path, ({ size, mtimeMs }) => {
    if (size !== task.size || Math.floor(mtimeMs) !== task.modified)
      throw new MintError('changed', `${task.path} has changed since it was counted.`, { subject: task.path, remedy: 'Count again.' });
  });
}

/** Decodes a file as it is; of a damaged one as much as can be had. @throws MintError */
export function decodeHere(folder: string, file: string, check: (stats: Stats) => void = () => undefined): Known {
  const { descriptor, stats } = openInside(folder, file);
  try {
    check(stats);
    const bytes = fileSource(descriptor, stats.size).read(0, stats.size);
    return decodeOrSalvage(recogniseFormat(memorySource(bytes), file).open(memorySource(bytes)));
  } catch (thrown) {
    if (thrown instanceof FrameFileError || thrown instanceof NotDecodedError) {
      throw new MintError('no-picture', thrown.message, { subject: file, cause: thrown });
    }
    throw thrown;
  } finally {
    closeSync(descriptor);
  }
}

function decodeOrSalvage(file: OpenFrame): Known {
  try {
    return { frame: file.decode(codecTools).frame, damage: [], problem: '' };
  } catch (thrown) {
    if (!(thrown instanceof FrameFileError)) throw thrown;
    const salvaged = salvageUnlessNothing(file);
    // What is the matter with the file says more than that nothing could be had of it.
    if (!salvaged) throw thrown;
    return { frame: salvaged.frame, damage: salvaged.damage.map((one) => [...one]), problem: thrown.message };
  }
}

function salvageUnlessNothing(file: OpenFrame): Salvaged | null {
  try {
    return file.salvage(codecTools);
  } catch (thrown) {
    if (thrown instanceof FrameFileError || thrown instanceof NotDecodedError) return null;
    throw thrown;
  }
}
