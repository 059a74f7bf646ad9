import type { ByteSource } from '../byte-source.ts';
import { FrameFileError, NotDecodedError } from '../errors.ts';
import type { StructureReport } from '../frame.ts';
import { readTiffImage, type TiffImage } from './header.ts';
import { fieldEnd, readDirectory, TAG, type TiffDirectory } from './tags.ts';

/** The pictures of a file whose structure is whole. */
export interface TiffPages {
  readonly report: StructureReport;
  /** The pictures behind the first, with their number. */
  readonly further: readonly { number: number; image: TiffImage }[];
}

/**
 * Proves a TIFF whole without its pixels: the directories, and every strip or tile of every picture
 * inside the file and as long as it must be.
 *
 * @throws FrameFileError
 */
export function checkTiffStructure(source: ByteSource, first: TiffImage): TiffPages {
  let end = Math.max(8, checkBlocks(source, first));
  const further: TiffPages['further'][number][] = [];
  let isComplete = true;
  let notExamined: string | undefined;
  for (const { directory, number } of walkDirectories(source, first)) {
    for (const field of directory.fields.values()) {
      const fieldsEnd = fieldEnd(field);
      if (fieldsEnd > source.size) throw inPage(number, cutShort(source, `its directory points up to byte ${fieldsEnd}`));
      end = Math.max(end, fieldsEnd);
    }
    end = Math.max(end, directory.end);
    // Pointers to directories of other kinds, which are not followed: the bytes behind them are accounted for by nobody.
    if (POINTERS.some((tag) => directory.fields.has(tag))) isComplete = false;
    if (number === 1 || !directory.fields.has(TAG.width)) continue;
    try {
      const image = readTiffImage(source, first.layout, directory);
      end = Math.max(end, checkBlocks(source, image));
      further.push({ number, image });
    } catch (thrown) {
      if (!(thrown instanceof NotDecodedError)) throw inPage(number, thrown);
      notExamined = `Page ${number}: ${thrown.message}`;
      isComplete = false;
    }
  }
  const behind = source.size - end;
  // Writers that append pictures fill up to where the next one could begin.
  const isFilledUp = further.length > 0 && behind < LONGEST_FILLING;
  return { report: { trailingBytes: isComplete && !isFilledUp ? behind : 0, notExamined }, further };
}

const LONGEST_FILLING = 16;

/** SubIFDs, EXIF and GPS directories, and a JPEG stream beside the strips. */
const POINTERS = [330, 34665, 34853, 513];

/** Says in which picture it was, where it was not the first. */
export function inPage(number: number, thrown: unknown): unknown {
  if (number === 1 || !(thrown instanceof FrameFileError)) return thrown;
  return new FrameFileError(thrown.code, `Page ${number}: ${thrown.message}`);
}

function cutShort(source: ByteSource, what: string): FrameFileError {
  return new FrameFileError('truncated', `The file ends after ${source.size} bytes; ${what}.`);
}

/** Checks the blocks of one picture; gives the first byte behind them. */
function checkBlocks(source: ByteSource, image: TiffImage): number {
  const { offsets, byteCounts } = image.blocks;
  let end = 0;
  let unwritten = 0;
  offsets.forEach((offset, index) => {
    const length = byteCounts[index];
    if (offset === 0 || length === 0) unwritten++;
    if (offset + length > source.size) throw cutShort(source, `pixels stand up to byte ${offset + length}`);
    end = Math.max(end, offset + length);
  });
  if (unwritten > 0) throw new FrameFileError('truncated', `${unwritten} of ${offsets.length} blocks of pixels were never written.`);
  if (image.compression === 'none') checkPlainSizes(image);
  return end;
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

/** Bytes that a block of unpacked pixels must have. */
function plainBytes(image: TiffImage, index: number): number {
  const [across, down] = image.chromaSubsampling;
  const rows = blockRows(image, index);
  if (across === 1 && down === 1) return blockRowBytes(image) * rows;
  const { width } = image.blocks;
  const units = Math.ceil(width / across) * Math.ceil(rows / down);
  if (!image.planar) return Math.ceil((units * (across * down + 2) * image.bits) / 8);
  // Planes apart: the first is luma, the others are smaller.
  const isLuma = index < image.blocks.across * image.blocks.down;
  return isLuma ? blockRowBytes(image) * rows : Math.ceil((units * image.bits) / 8);
}

function checkPlainSizes(image: TiffImage): void {
  image.blocks.byteCounts.forEach((length, index) => {
    const needed = plainBytes(image, index);
    if (length < needed) throw new FrameFileError('corrupt', `Block ${index} holds ${length} bytes where its pixels need ${needed}.`);
  });
}

const MAXIMUM_DIRECTORIES = 10_000;

/** Follows the chain of directories, which must end. */
function* walkDirectories(source: ByteSource, first: TiffImage): Generator<{ directory: TiffDirectory; number: number }> {
  const seen = new Set<number>();
  let { directory } = first;
  for (;;) {
    seen.add(directory.offset);
    yield { directory, number: seen.size };
    if (directory.next === 0) return;
    if (seen.has(directory.next)) throw new FrameFileError('corrupt', `The directories go round in a circle at byte ${directory.next}.`);
    if (seen.size > MAXIMUM_DIRECTORIES) throw new FrameFileError('corrupt', `There are more than ${MAXIMUM_DIRECTORIES} directories.`);
    try {
      directory = readDirectory(source, first.layout, directory.next);
    } catch (thrown) {
      throw inPage(seen.size + 1, thrown);
    }
  }
}
