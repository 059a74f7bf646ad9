import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import { readWavHeader, type WavHeader } from './header.ts';

/** A whole sound file: its header, and how many samples a channel has. */
export interface WavSound {
  readonly header: WavHeader;
  /** Samples of one channel. */
  readonly samples: number;
}

/** A data size that a writer leaves in place until it has finished, and a recorder that was cut off for ever. */
const UNFINISHED = new Set([0, 0xffffffff]);

/**
 * Proves a WAV file whole and counts its samples, from its header and its size alone.
 *
 * @throws FrameFileError `truncated` when samples are missing at its end
 */
export function checkWav(source: ByteSource): WavSound {
  const header = readWavHeader(source);
  const there = source.size - header.dataOffset;
  if (UNFINISHED.has(header.dataBytes) && there > 0) {
    throw new FrameFileError('truncated', 'The length in the header was never filled in: the recording was not finished.');
  }
  if (header.dataBytes > there) {
    throw new FrameFileError('truncated', `The file ends after ${source.size} bytes; ${header.dataBytes - there} bytes of its sound are missing.`);
  }
  return { header, samples: Math.floor(header.dataBytes / header.blockBytes) };
}
