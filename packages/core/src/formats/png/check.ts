import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { CodecTools, StructureReport } from '../frame.ts';
import { checkChunkCrc, CHUNK_OVERHEAD, endsWithEnd, walkChunks, type PngChunk, type PngPreamble } from './header.ts';

/**
 * Proves a PNG whole without its pixels: header, the chunks before the pixels, and the IEND
 * chunk at the very end. Only where IEND is not the last thing are all chunks walked.
 *
 * @throws FrameFileError
 */
export function checkPngStructure(source: ByteSource, preamble: PngPreamble): StructureReport {
  if (preamble.broken) throw preamble.broken;
  if (!preamble.firstData) throw withoutPixels(source);
  if (endsWithEnd(source)) return { trailingBytes: 0 };
  return { trailingBytes: findEnd(source, preamble.firstData) };
}

function findEnd(source: ByteSource, from: PngChunk): number {
  for (const chunk of walkChunks(source, from.offset - 8)) {
    if (chunk.type === 'IEND') return source.size - (chunk.offset + chunk.length + 4);
  }
  throw new FrameFileError('truncated', `The file ends after ${source.size} bytes, without its closing chunk.`);
}

function withoutPixels(source: ByteSource): FrameFileError {
  return endsWithEnd(source)
    ? new FrameFileError('corrupt', 'The file holds no pixels.')
    : new FrameFileError('truncated', `The file ends after ${source.size} bytes, before its pixels.`);
}

/** Every chunk checked, with the pieces that decoding needs. */
export interface PngContents {
  readonly data: readonly PngChunk[];
  readonly palette: PngChunk | null;
  readonly transparency: PngChunk | null;
  readonly report: StructureReport;
}

/** Walks all chunks of a file in memory and checks each one's CRC. @throws FrameFileError */
export function checkPngChunks(source: ByteSource, bytes: Uint8Array, tools: Pick<CodecTools, 'crc32'>): PngContents {
  const data: PngChunk[] = [];
  let palette: PngChunk | null = null;
  let transparency: PngChunk | null = null;
  let previous = '';
  for (const chunk of walkChunks(source)) {
    checkChunkCrc(bytes, chunk, tools);
    if (chunk.type === 'IDAT') {
      if (data.length > 0 && previous !== 'IDAT') throw new FrameFileError('corrupt', 'The pixel data is interrupted by another chunk.');
      data.push(chunk);
    } else if (chunk.type === 'PLTE') palette = chunk;
    else if (chunk.type === 'tRNS') transparency = chunk;
    else if (chunk.type === 'IEND') {
      if (data.length === 0) throw withoutPixels(source);
      const end = chunk.offset - 8 + CHUNK_OVERHEAD + chunk.length;
      return { data, palette, transparency, report: { trailingBytes: source.size - end } };
    }
    previous = chunk.type;
  }
  throw new FrameFileError('truncated', `The file ends after ${source.size} bytes, without its closing chunk.`);
}
