import { ByteReader, type ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { ExrHeader, ExrPart } from './header.ts';

/** Where a chunk's pixels lie: a block of lines, or a tile of level 0 or of a smaller level. */
export interface ChunkPlace {
  readonly part: number;
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
  /** Tiles below full size are checked but not decoded. */
  readonly fullSize: boolean;
  /** What the chunk's own header must say: y for lines; tile x, tile y, level x, level y for tiles. */
  readonly label: readonly number[];
}

/** Chunk tables longer than this are refused: 2^27 tiles make a table of a gigabyte. */
const MAXIMUM_CHUNKS = 2 ** 27;

/** How many chunks a part must have, without listing them. @throws FrameFileError */
export function countChunks(part: ExrPart): number {
  if (part.deep && part.statedChunkCount !== null) return checkCount(part.statedChunkCount);
  const [width, height] = partSize(part);
  let count = 0;
  if (!part.tiles) count = Math.ceil(height / part.linesPerChunk);
  else {
    for (const level of tileLevels(part)) {
      count += Math.ceil(level.width / part.tiles.width) * Math.ceil(level.height / part.tiles.height);
      if (count > MAXIMUM_CHUNKS) break;
    }
  }
  if (part.statedChunkCount !== null && part.statedChunkCount !== count) {
    throw new FrameFileError('corrupt', `The header states ${part.statedChunkCount} chunks where ${width} x ${height} pixels need ${count}.`);
  }
  return checkCount(count);
}

function checkCount(count: number): number {
  if (count < 1 || count > MAXIMUM_CHUNKS) throw new FrameFileError('corrupt', `The size asks for ${count} chunks, which no file holds.`);
  return count;
}

export function partSize(part: ExrPart): [number, number] {
  const [left, top, right, bottom] = part.dataWindow;
  return [right - left + 1, bottom - top + 1];
}

interface TileLevel {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** The levels of a tiled part in the order of the chunk table: ripmaps row by row of levels. */
function tileLevels(part: ExrPart): TileLevel[] {
  const [width, height] = partSize(part);
  const tiles = part.tiles!;
  const round = tiles.roundUp ? Math.ceil : Math.floor;
  const sizeAt = (size: number, level: number) => Math.max(1, round(size / 2 ** level));
  const countOf = (size: number) => round(Math.log2(size)) + 1;
  const levels: TileLevel[] = [];
  const add = (x: number, y: number) => levels.push({ x, y, width: sizeAt(width, x), height: sizeAt(height, y) });
  if (tiles.levels === 'one') add(0, 0);
  else if (tiles.levels === 'mipmap') for (let l = 0; l < countOf(Math.max(width, height)); l++) add(l, l);
  else for (let y = 0; y < countOf(height); y++) for (let x = 0; x < countOf(width); x++) add(x, y);
  return levels;
}

/** Lists a part's chunks in the order of its table. Call {@link countChunks} first. */
export function* listChunks(part: ExrPart, index: number): Generator<ChunkPlace> {
  const [left, top, right, bottom] = part.dataWindow;
  if (!part.tiles) {
    for (let y = top; y <= bottom; y += part.linesPerChunk) {
      const height = Math.min(part.linesPerChunk, bottom - y + 1);
      yield { part: index, left, top: y, width: right - left + 1, height, fullSize: true, label: [y] };
    }
    return;
  }
  const { width: tileWidth, height: tileHeight } = part.tiles;
  for (const level of tileLevels(part)) {
    for (let ty = 0; ty * tileHeight < level.height; ty++) {
      for (let tx = 0; tx * tileWidth < level.width; tx++) {
        yield {
          part: index,
          left: left + tx * tileWidth,
          top: top + ty * tileHeight,
          width: Math.min(tileWidth, level.width - tx * tileWidth),
          height: Math.min(tileHeight, level.height - ty * tileHeight),
          fullSize: level.x === 0 && level.y === 0,
          label: [tx, ty, level.x, level.y],
        };
      }
    }
  }
}

/** Bytes of a chunk's pixels once unpacked. */
export function unpackedSize(part: ExrPart, place: ChunkPlace): number {
  let size = 0;
  for (const channel of part.channels) {
    size += samplesAcross(place, channel.xSampling) * linesCovered(place, channel.ySampling) * bytesPerSample(channel.type);
  }
  return size;
}

export function bytesPerSample(type: 'uint' | 'half' | 'float'): number {
  return type === 'half' ? 2 : 4;
}

/** Samples of a line of the chunk for a channel that keeps every n-th pixel. */
export function samplesAcross(place: ChunkPlace, sampling: number): number {
  return Math.floor((place.left + place.width - 1) / sampling) - Math.ceil(place.left / sampling) + 1;
}

/** Lines of the chunk that a channel keeping every n-th line has. */
export function linesCovered(place: ChunkPlace, sampling: number): number {
  return Math.floor((place.top + place.height - 1) / sampling) - Math.ceil(place.top / sampling) + 1;
}

/** Bytes before a chunk's data: part number where there are several, coordinates, size. */
export function chunkHeaderSize(header: ExrHeader, part: ExrPart): number {
  const size = part.deep ? 24 : 4;
  return (header.multiPart ? 4 : 0) + (part.tiles ? 16 : 4) + size;
}

/** The chunk table of one part: offsets from the file's start, in table order. */
export function readChunkTable(source: ByteSource, offset: number, count: number): Float64Array {
  if (offset + count * 8 > source.size) {
    throw new FrameFileError('truncated', `The file ends after ${source.size} bytes, inside its table of ${count} chunks.`);
  }
  const reader = new ByteReader(source.read(offset, count * 8), { littleEndian: true });
  const offsets = new Float64Array(count);
  for (let i = 0; i < count; i++) offsets[i] = reader.uint64();
  return offsets;
}

/** What a chunk says about itself, checked against its place. */
export interface ChunkData {
  readonly offset: number;
  readonly size: number;
  readonly end: number;
}

/**
 * Reads a chunk's own header and holds it against its place in the table.
 *
 * @throws FrameFileError `truncated` when its data runs past the end, `corrupt` when it is another chunk
 */
export function readChunkHeader(source: ByteSource, header: ExrHeader, place: ChunkPlace, offset: number): ChunkData {
  const part = header.parts[place.part]!;
  const headerSize = chunkHeaderSize(header, part);
  if (offset + headerSize > source.size) throw cutShort(source);
  const reader = new ByteReader(source.read(offset, headerSize), { littleEndian: true });
  if (header.multiPart && reader.int32() !== place.part) throw wrongChunk(offset);
  for (const expected of place.label) if (reader.int32() !== expected) throw wrongChunk(offset);
  let size: number;
  if (part.deep) size = reader.uint64() + reader.uint64();
  else {
    size = reader.int32();
    const unpacked = unpackedSize(part, place);
    // A chunk that packing would make larger is stored as it is, so none is ever larger.
    if (size < 0 || size > unpacked || (size === 0 && unpacked > 0)) {
      throw new FrameFileError('corrupt', `The chunk at byte ${offset} claims ${size} bytes where at most ${unpacked} make sense.`);
    }
  }
  const data = offset + headerSize;
  if (data + size > source.size) throw cutShort(source);
  return { offset: data, size, end: data + size };
}

export function cutShort(source: ByteSource): FrameFileError {
  return new FrameFileError('truncated', `The file ends after ${source.size} bytes, in the middle of the picture.`);
}

function wrongChunk(offset: number): FrameFileError {
  return new FrameFileError('corrupt', `The chunk at byte ${offset} is not the one that the table says.`);
}
