import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { StructureReport } from '../frame.ts';
import { chunkHeaderSize, countChunks, cutShort, listChunks, readChunkHeader, readChunkTable, unpackedSize, type ChunkPlace } from './chunks.ts';
import { readExrHeader, type ExrHeader } from './header.ts';

/** Header and chunk tables, each offset inside the file. */
export interface ExrLayout {
  readonly header: ExrHeader;
  /** One table a part. */
  readonly tables: readonly Float64Array[];
  /** First byte behind the tables. */
  readonly tableEnd: number;
}

/**
 * Reads header and chunk tables, and checks that every chunk was written and begins inside the
 * file.
 *
 * @throws FrameFileError
 */
export function readExrLayout(source: ByteSource): ExrLayout {
  const header = readExrHeader(source);
  const tables: Float64Array[] = [];
  let position = header.tableOffset;
  for (const part of header.parts) {
    const count = countChunks(part);
    tables.push(readChunkTable(source, position, count));
    position += count * 8;
  }
  const layout = { header, tables, tableEnd: position };
  checkOffsets(source, layout);
  return layout;
}

function checkOffsets(source: ByteSource, layout: ExrLayout): void {
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
    if (highest > largestEnd(layout)) throw new FrameFileError('corrupt', `The chunk table points to byte ${highest}, beyond anything that the picture needs.`);
    throw new FrameFileError('truncated', `The file ends after ${source.size} bytes; ${beyond} of ${total} chunks lie behind its end.`);
  }
}

/** Where the file would end at most, if no chunk could be packed at all. */
function largestEnd(layout: ExrLayout): number {
  let end = layout.tableEnd;
  layout.header.parts.forEach((part, index) => {
    if (part.deep) end = Infinity;
    const overhead = chunkHeaderSize(layout.header, part);
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
export function checkExrStructure(source: ByteSource): StructureReport {
  const layout = readExrLayout(source);
  let last: { offset: number; part: number; index: number } = { offset: -1, part: 0, index: 0 };
  layout.tables.forEach((table, part) => {
    table.forEach((offset, index) => {
      if (offset > last.offset) last = { offset, part, index };
    });
  });
  const chunk = readChunkHeader(source, layout.header, placeAt(layout.header, last.part, last.index), last.offset);
  if (chunk.end > source.size) throw cutShort(source);
  return { trailingBytes: source.size - chunk.end };
}

function placeAt(header: ExrHeader, part: number, index: number): ChunkPlace {
  let i = 0;
  for (const place of listChunks(header.parts[part], part)) if (i++ === index) return place;
  throw new FrameFileError('corrupt', `There is no chunk ${index}.`);
}
