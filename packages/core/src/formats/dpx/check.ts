import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { StructureReport } from '../frame.ts';
import type { DpxImage } from './header.ts';

/**
 * Proves a DPX whole: its pixels as long as their size and packing ask. The length that the
 * header states is not held against the file, because real writers get it wrong.
 *
 * @throws FrameFileError
 */
export function checkDpxStructure(source: ByteSource, image: DpxImage): StructureReport {
  // The length of run lengths, and of further elements, is not known before they are walked.
  if (image.runs || image.elements > 1) {
    if (image.dataOffset >= source.size) throw cutShort(source, image.dataOffset + 1);
    if (image.statedSize > source.size && image.statedSize < 2 ** 32 - 1) throw cutShort(source, image.statedSize);
    return { trailingBytes: 0 };
  }
  const end = image.dataOffset + lineBytes(source, image) * image.height;
  if (end > source.size) throw cutShort(source, end);
  const accounted = Math.max(end + image.imagePadding, image.statedSize <= source.size ? image.statedSize : 0);
  return { trailingBytes: Math.max(0, source.size - accounted) };
}

function cutShort(source: ByteSource, needed: number): FrameFileError {
  return new FrameFileError('truncated', `The file ends after ${source.size} bytes; its pixels need ${needed}.`);
}

/**
 * Bytes from one line to the next. Lines begin on a word of 32 bits (section 6), but some writers
 * leave bytes as they come; the file's exact length gives those away.
 */
export function lineBytes(source: ByteSource, image: DpxImage): number {
  const plain = plainLineBytes(image);
  const padded = Math.ceil(plain / 4) * 4 + image.linePadding;
  if (plain !== padded && source.size - image.dataOffset === plain * image.height) return plain;
  return padded;
}

function plainLineBytes({ width, samplesPerPixel, bits, packing }: DpxImage): number {
  const samples = width * samplesPerPixel;
  // Filled: three samples of 10 bits in a word, one of 12 bits in half a word.
  if (packing !== 0 && bits === 10) return Math.ceil(samples / 3) * 4;
  if (packing !== 0 && bits === 12) return samples * 2;
  return bits === 10 || bits === 12 || bits === 1 ? Math.ceil((samples * bits) / 32) * 4 : (samples * bits) / 8;
}
