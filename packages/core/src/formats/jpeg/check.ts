import type { ByteSource } from '../byte-source.ts';
import type { StructureReport } from '../frame.ts';
import type { JpegImage } from './header.ts';
import { cutShort, isRestart, MARKER, readSegment } from './markers.ts';

/**
 * Proves a JPEG whole without its pixels: the segments up to the first scan, and the closing
 * marker at the very end. Only where that is not the last thing is the file walked.
 *
 * @throws FrameFileError
 */
export function checkJpegStructure(source: ByteSource, image: JpegImage): StructureReport {
  const [high, low] = source.read(source.size - 2, 2);
  if (high === 0xff && low === MARKER.eoi) return { trailingBytes: 0 };
  let position = image.frameOffset;
  for (;;) {
    const segment = readSegment(source, position);
    if (segment.marker === MARKER.eoi) return { trailingBytes: source.size - segment.end };
    position = segment.marker === MARKER.sos ? endOfScan(source, segment.end) : segment.end;
  }
}

const PIECE = 1 << 16;

/** The next marker behind entropy-coded bytes, where 0xff 0x00 is a byte of data and restarts belong to it. */
function endOfScan(source: ByteSource, from: number): number {
  for (let start = from; start < source.size; start += PIECE) {
    const piece = source.read(start, Math.min(PIECE + 1, source.size - start));
    for (let i = 0; i + 1 < piece.length; i++) {
      if (piece[i] !== 0xff) continue;
      const next = piece[i + 1];
      if (next !== 0 && next !== 0xff && !isRestart(next)) return start + i;
    }
  }
  throw cutShort(source);
}
