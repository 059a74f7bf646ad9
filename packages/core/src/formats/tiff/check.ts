import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { StructureReport } from '../frame.ts';
import { readTiffImage, type TiffImage } from './header.ts';
import { fieldEnd, readDirectory } from './tags.ts';

/**
 * Proves a TIFF whole without its pixels: the directories, and every strip or tile inside the
 * file and as long as it must be.
 *
 * @throws FrameFileError
 */
export function checkTiffStructure(source: ByteSource): StructureReport {
  return checkTiffBlocks(source, readTiffImage(source));
}

/** As {@link checkTiffStructure}, for a picture whose directory has been read. @throws FrameFileError */
export function checkTiffBlocks(source: ByteSource, image: TiffImage): StructureReport {
  const { offsets, byteCounts } = image.blocks;
  let end = 8;
  let unwritten = 0;
  offsets.forEach((offset, index) => {
    const length = byteCounts[index];
    if (offset === 0 || length === 0) unwritten++;
    if (offset + length > source.size) {
      throw new FrameFileError('truncated', `The file ends after ${source.size} bytes; pixels stand up to byte ${offset + length}.`);
    }
    end = Math.max(end, offset + length);
  });
  if (unwritten > 0) throw new FrameFileError('truncated', `${unwritten} of ${offsets.length} blocks of pixels were never written.`);
  if (image.compression === 'none') checkPlainSizes(image);
  const { end: directoriesEnd, complete } = walkDirectories(source, image);
  // Other directories may point to pixels and notes of their own, which are not followed.
  return { trailingBytes: complete ? source.size - Math.max(end, directoriesEnd) : 0 };
}

/** Bytes of a row of one block. */
export function blockRowBytes(image: TiffImage): number {
  return Math.ceil((image.blocks.width * (image.planar ? 1 : image.samples) * image.bits) / 8);
}

/** Rows that a block holds: a tile all of them, the last strip what is left. */
export function blockRows(image: TiffImage, index: number): number {
  const { tiled, height, across, down } = image.blocks;
  if (tiled) return height;
  const row = Math.floor((index % (across * down)) / across);
  return Math.min(height, image.height - row * height);
}

function checkPlainSizes(image: TiffImage): void {
  const rowBytes = blockRowBytes(image);
  image.blocks.byteCounts.forEach((length, index) => {
    const needed = rowBytes * blockRows(image, index);
    if (length < needed) throw new FrameFileError('corrupt', `Block ${index} holds ${length} bytes where its pixels need ${needed}.`);
  });
}

const MAXIMUM_DIRECTORIES = 10_000;

/** Follows the chain of directories, which must end; gives the last byte that they use. */
function walkDirectories(source: ByteSource, image: TiffImage): { end: number; complete: boolean } {
  const seen = new Set<number>();
  let directory = image.directory;
  let end = 0;
  for (;;) {
    seen.add(directory.offset);
    end = Math.max(end, directory.end);
    for (const field of directory.fields.values()) {
      const fieldsEnd = fieldEnd(field);
      if (fieldsEnd > source.size)
        throw new FrameFileError('truncated', `The file ends after ${source.size} bytes; its directory points up to byte ${fieldsEnd}.`);
      end = Math.max(end, fieldsEnd);
    }
    if (directory.next === 0) break;
    if (seen.has(directory.next)) throw new FrameFileError('corrupt', `The directories go round in a circle at byte ${directory.next}.`);
    if (seen.size > MAXIMUM_DIRECTORIES) throw new FrameFileError('corrupt', `There are more than ${MAXIMUM_DIRECTORIES} directories.`);
    directory = readDirectory(source, image.layout, directory.next);
  }
  return { end, complete: seen.size === 1 && ![330, 34665, 34853].some((tag) => image.directory.fields.has(tag)) };
}
