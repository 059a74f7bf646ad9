import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { Salvaged } from '../frame.ts';
import { lostRows, NO_ROW } from '../salvage.ts';
import { beginPicture, beginWalk, finishPicture, PROGRESSIVE, walkScans, type Walk } from './decode.ts';
import type { JpegImage } from './header.ts';
import { BrokenScanError, shapesOf } from './scan.ts';

/**
 * Decodes up to where the pixel data breaks off. JPEG has no checksums: where it was changed, and not cut, what comes
 * before the place where that shows can be wrong as well.
 *
 * @throws FrameFileError when there is not one row, NotDecodedError for what the decode cannot read either
 */
export function salvageJpeg(source: ByteSource, image: JpegImage): Salvaged {
  const bytes = source.read(0, source.size);
  const picture = beginPicture(bytes, image);
  const walk = beginWalk();
  let broken: FrameFileError | null = null;
  try {
    walkScans(bytes, image, picture, walk);
  } catch (thrown) {
    if (!(thrown instanceof FrameFileError)) throw thrown;
    broken = thrown;
  }
  const rows = broken ? rowsBefore(broken, image, walk) : image.height;
  if (rows === 0 && !hasSomething(broken, walk)) throw new FrameFileError('truncated', NO_ROW);
  return { frame: finishPicture(image, picture, walk), damage: lostRows(image, rows) };
}

/** Rows of pixels that are as they should be. */
function rowsBefore(broken: FrameFileError, image: JpegImage, { scan, seen }: Walk): number {
  const isLast = image.components.every((_, index) => seen.has(index));
  // From coarse to fine: what lacks a scan is coarse everywhere.
  if (image.process === PROGRESSIVE) return 0;
  // Only the end lacks.
  if (!(broken instanceof BrokenScanError)) return isLast ? image.height : 0;
  if (!scan || scan.components.length < image.components.length) return 0;
  const { stride, across, down } = shapesOf(image)[scan.components[0]!.index]!;
  const unitRows = scan.components.length === 1 ? 1 : down;
  const unitsAcross = scan.components.length === 1 ? stride : stride / across;
  const whole = Math.floor(broken.units / unitsAcross) * unitRows * 8;
  // A row of colours at half height reaches into the one above.
  return Math.max(0, Math.min(image.height, whole - (unitRows > 1 ? unitRows : 0)));
}

/** Whether anything at all was decoded. */
const hasSomething = (broken: FrameFileError | null, { seen }: Walk) => seen.size > 0 || (broken instanceof BrokenScanError && broken.units > 0);
