import { formatByExtension, type ByteSource, type FrameHeader } from '../formats/index.ts';

/** Bytes that a sample takes once it is decoded, by depth; small integers stand in bytes, those of 10 bits and more in two. */
const SAMPLE_BYTES: Readonly<Record<FrameHeader['channels'][number]['depth'], number>> = {
  '1': 1,
  '2': 1,
  '4': 1,
  '8': 1,
  '10': 2,
  '12': 2,
  '16': 2,
  half: 2,
  float: 4,
  uint: 4,
  double: 8,
};

/**
 * No format packs pixels tighter than deflate does, 1032 to 1, or little more. A header that promises more
 * than that lies: nothing is decoded of such a file, and the look itself says so.
 */
const MOST_PACKED = 1200;

/** Beside the planes themselves a decoder holds what it has unpacked but not yet sorted. */
const WORKING_SPACE = 2;

/**
 * The memory that a full look at a file takes, in bytes: all of the file, and its pixels by what its header
 * says of them. A file whose header cannot be read takes itself alone: nothing is decoded of it.
 *
 * @throws SourceError when the source cannot be read
 */
export function memoryToInspect(source: ByteSource, name: string): number {
  return source.size + WORKING_SPACE * pixelBytes(source, name);
}

function pixelBytes(source: ByteSource, name: string): number {
  const format = formatByExtension(name.slice(name.lastIndexOf('.') + 1));
  if (!format || source.size === 0) return 0;
  try {
    const { width, height, channels } = format.open(source).header;
    const bytes = width * height * channels.reduce((sum, { depth }) => sum + SAMPLE_BYTES[depth], 0);
    return bytes > source.size * MOST_PACKED ? 0 : bytes;
  } catch {
    // What is wrong with the header is told by the look itself.
    return 0;
  }
}
