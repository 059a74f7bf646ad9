import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { StructureReport } from '../frame.ts';
import type { TgaImage } from './header.ts';

const PIECE = 1 << 16;

/**
 * Proves a TGA whole: pixels as long as the size asks. Run lengths tell their length only by
 * being walked, so a packed file is read through.
 *
 * @throws FrameFileError
 */
export function checkTgaStructure(source: ByteSource, image: TgaImage): StructureReport {
  const end = image.runs ? endOfRuns(source, image) : image.pixelOffset + image.width * image.height * pixelBytes(image);
  if (end > source.size) throw cutShort(source, end);
  return { trailingBytes: image.hasFooter ? 0 : source.size - end };
}

export function pixelBytes(image: TgaImage): number {
  return Math.ceil(image.pixelBits / 8);
}

function cutShort(source: ByteSource, needed: number): FrameFileError {
  return new FrameFileError('truncated', `The file ends after ${source.size} bytes; its pixels need ${needed}.`);
}

/** Walks the packets: a count byte, then one pixel for a run or as many as it counts. */
function endOfRuns(source: ByteSource, image: TgaImage): number {
  const bytes = pixelBytes(image);
  const total = image.width * image.height;
  let position = image.pixelOffset;
  let pixels = 0;
  let piece = new Uint8Array(0);
  let pieceStart = 0;
  while (pixels < total) {
    if (position >= source.size) throw new FrameFileError('truncated', `The file ends after ${source.size} bytes, with ${pixels} of ${total} pixels.`);
    if (position < pieceStart || position >= pieceStart + piece.length) {
      pieceStart = position;
      piece = source.read(position, Math.min(PIECE, source.size - position)) as Uint8Array<ArrayBuffer>;
    }
    const packet = piece[position - pieceStart];
    const count = (packet & 0x7f) + 1;
    position += 1 + (packet & 0x80 ? bytes : count * bytes);
    pixels += count;
  }
  if (pixels > total) throw new FrameFileError('corrupt', `The run lengths give ${pixels} pixels where ${total} are needed.`);
  return position;
}
