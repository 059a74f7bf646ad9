import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';

/** JPEG is read after ITU-T T.81 (1992); marker names are its table B.1. */
export const MARKER = {
  soi: 0xd8,
  eoi: 0xd9,
  sos: 0xda,
  dqt: 0xdb,
  dht: 0xc4,
  dac: 0xcc,
  dri: 0xdd,
  rst0: 0xd0,
  rst7: 0xd7,
  app0: 0xe0,
  app14: 0xee,
  tem: 0x01,
  /** Begins a frame of JPEG-LS (ITU-T T.87). */
  lossless: 0xf7,
} as const;

/** A marker and, where it has one, the segment behind it without its length. */
export interface Segment {
  readonly marker: number;
  readonly offset: number;
  readonly data: Uint8Array;
  /** First byte behind the segment. */
  readonly end: number;
}

/** Whether a marker begins a frame: SOF0 to SOF15 without the tables that stand between them. */
export function isFrameMarker(marker: number): boolean {
  return marker >= 0xc0 && marker <= 0xcf && marker !== MARKER.dht && marker !== MARKER.dac && marker !== 0xc8;
}

export function isRestart(marker: number): boolean {
  return marker >= MARKER.rst0 && marker <= MARKER.rst7;
}

/** Reads the marker that must stand at `position`, fill bytes before it allowed (section B.1.1.2). @throws FrameFileError */
export function readSegment(source: ByteSource, position: number): Segment {
  let at = position;
  const byteAt = (offset: number) => {
    if (offset >= source.size) throw cutShort(source);
    return source.read(offset, 1)[0];
  };
  if (byteAt(at) !== 0xff) throw new FrameFileError('corrupt', `There is no marker at byte ${at}, where one should stand.`);
  while (byteAt(at) === 0xff) at++;
  const marker = byteAt(at);
  if (marker === 0) throw new FrameFileError('corrupt', `There is no marker at byte ${position}, where one should stand.`);
  const start = at + 1;
  if (marker === MARKER.soi || marker === MARKER.eoi || marker === MARKER.tem || isRestart(marker)) {
    return { marker, offset: position, data: new Uint8Array(0), end: start };
  }
  if (start + 2 > source.size) throw cutShort(source);
  const [high, low] = source.read(start, 2);
  const length = (high << 8) | low;
  if (length < 2) throw new FrameFileError('corrupt', `The segment at byte ${position} gives an impossible length, ${length}.`);
  if (start + length > source.size) throw cutShort(source);
  return { marker, offset: position, data: source.read(start + 2, length - 2), end: start + length };
}

export function cutShort(source: ByteSource): FrameFileError {
  return new FrameFileError('truncated', `The file ends after ${source.size} bytes, in the middle of the picture.`);
}
