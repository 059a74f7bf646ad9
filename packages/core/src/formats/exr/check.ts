import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { StructureReport } from '../frame.ts';
import { chunkHeaderSize, countChunks, cutShort, listChunks, readChunkHeader, readChunkTable, unpackedSize, type ChunkPlace } from './chunks.ts';
import type { ExrHeader } from './header.ts';

/** The chunk tables, each offset inside the file. */
export interface ExrLayout {
  /** One table a part. */
  readonly tables: readonly Float64Array[];
  /** First byte behind the tables. */
  readonly tableEnd: number;
}

/**
 * Reads the chunk tables, and checks that every chunk was written and begins inside the
 * file.
 *
 * @throws FrameFileError
 */
export function readExrLayout(source: ByteSource, header: ExrHeader): ExrLayout {
  const tables: Float64Array[] = [];
  let position = header.tableOffset;
  for (const part of header.parts) {
    const count = countChunks(part);
    tables.push(readChunkTable(source, position, count));
    position += count * 8;
  }
  const layout = { tables, tableEnd: position };
  checkOffsets(source, header, layout);
  return layout;
}

function checkOffsets(source: ByteSource, header: ExrHeader, layout: ExrLayout): void {
  let unwritten = 0;
  let total = 0;
  let beyond = 0;
  let highest = 0;
  for (const table of layout.tables) {
    for (const offset of table) {
      total++;
      if (offset === 0) unwritten++;
      else if (offset < layout.tableEnd) throw new FrameFileError('corrupt', `The chunk table points to byte ${offset}, inside the header.`);
      else if (offset >= source.size) beyond++;
      if (offset > highest) highest = offset;
    }
  }
  if (unwritten > 0) {
    throw new FrameFileError('truncated', `${unwritten} of ${total} chunks were never written.`);
  }
  if (beyond > 0) {
    if (highest > largestEnd(header, layout))
      throw new FrameFileError('corrupt', `The chunk table points to byte ${highest}, beyond anything that the picture needs.`);
    throw new FrameFileError('truncated', `The file ends after ${source.size} bytes; ${beyond} of ${total} chunks lie behind its end.`);
  }
}

/** Where the file would end at most, if no chunk could be packed at all. */
function largestEnd(header: ExrHeader, layout: ExrLayout): number {
  let end = layout.tableEnd;
  header.parts.forEach((part, index) => {
    if (part.deep) end = Infinity;
    const overhead = chunkHeaderSize(header, part);
    for (const place of listChunks(part, index)) end += overhead + unpackedSize(part, place);
  });
  return end;
}

/**
 * Proves an EXR whole without its pixels: header, chunk tables, and the chunk that lies last in
 * the file, which must end inside it.
 *
 * @throws FrameFileError
 */
export function checkExrStructure(source: ByteSource, header: ExrHeader): StructureReport {
  const { tables } = readExrLayout(source, header);
  let last: { offset: number; part: number; index: number } = { offset: -1, part: 0, index: 0 };
  tables.forEach((table, part) => {
    table.forEach((offset, index) => {
      if (offset > last.offset) last = { offset, part, index };
    });
  });
  const chunk = readChunkHeader(source, header, placeAt(header, last.part, last.index), last.offset);
  if (chunk.end > source.size) throw cutShort(source);
  return { trailingBytes: source.size - chunk.end };
}

function placeAt(header: ExrHeader, part: number, index: number): ChunkPlace {
  let i = 0;
  for (const place of listChunks(header.parts[part]!, part)) if (i++ === index) return place;
  throw new FrameFileError('corrupt', `There is no chunk ${index}.`);
}
