import { ByteReader, type ByteSource } from '../byte-source.ts';
import { FrameFileError, NotDecodedError } from '../errors.ts';
import type { CodecTools, Salvaged } from '../frame.ts';
import { joinRectangles, unlessDamaged, type Rectangle } from '../salvage.ts';
import { countChunks, listChunks, readChunkHeader, type ChunkData, type ChunkPlace } from './chunks.ts';
import { boundParts, makeTargets, spread, unpackChunk, whyNotDecoded } from './decode.ts';
import { exrFrameHeader, type ExrHeader } from './header.ts';

/**
 * Decodes every chunk that is whole, wherever it can be found, and says where there is none.
 *
 * @throws FrameFileError when the header itself makes no sense, NotDecodedError for deep parts
 */
export function salvageExr(source: ByteSource, header: ExrHeader, tools: CodecTools): Salvaged {
  const undecoded = header.parts.map(whyNotDecoded).find((reason) => reason !== null);
  if (undecoded) throw new NotDecodedError(undecoded);
  // How much is packed into the file says nothing where the file was cut.
  boundParts(header, Infinity);
  const bytes = source.read(0, source.size);
  const targets = header.parts.map((part) => makeTargets(header, part));
  const damage: Rectangle[] = [];
  let found = 0;
  for (const { place, data } of findChunks(source, header)) {
    if (!place.fullSize) continue;
    const part = header.parts[place.part]!;
    const isSound =
      data !== null &&
      unlessDamaged(() => {
        spread(unpackChunk(part, place, bytes.subarray(data.offset, data.end), data.offset, tools), place, targets[place.part]!);
        return true;
      });
    if (isSound) found++;
    else if (place.part === 0) damage.push([place.left - part.dataWindow[0], place.top - part.dataWindow[1], place.width, place.height]);
  }
  if (found === 0) throw new FrameFileError('truncated', 'None of its picture can be read.');
  return { frame: { header: exrFrameHeader(header), planes: targets.flatMap((list) => list.map(({ plane }) => plane)) }, damage: joinRectangles(damage) };
}

/** Every place of the picture with the chunk that holds it, by the table, else by walking through the file; null where there is none. */
function findChunks(source: ByteSource, header: ExrHeader): { place: ChunkPlace; data: ChunkData | null }[] {
  const found: { place: ChunkPlace; data: ChunkData | null }[] = [];
  let table = header.tableOffset;
  header.parts.forEach((part, index) => {
    let at = table;
    for (const place of listChunks(part, index)) {
      const offset = at + 8 <= source.size ? new ByteReader(source.read(at, 8), { littleEndian: true }).uint64() : 0;
      at += 8;
      found.push({ place, data: offset > 0 && offset < source.size ? unlessDamaged(() => readChunkHeader(source, header, place, offset)) : null });
    }
    table += countChunks(part) * 8;
  });
  // A writer that was stopped has not come to its table, but to its chunks.
  if (found.every(({ data }) => data === null) && header.parts.length === 1) return walkThrough(source, header, table, found);
  return found;
}

/** Chunks that lie one after the other, as far as each says where the next begins. */
function walkThrough(source: ByteSource, header: ExrHeader, start: number, places: readonly { place: ChunkPlace; data: ChunkData | null }[]) {
  const byLabel = new Map(places.map(({ place }) => [place.label.join(), place]));
  const reached = new Map<ChunkPlace, ChunkData>();
  const labels = header.parts[0]!.tiles ? 4 : 1;
  for (let offset = start; offset + labels * 4 <= source.size;) {
    const reader = new ByteReader(source.read(offset, labels * 4), { littleEndian: true });
    const place = byLabel.get(Array.from({ length: labels }, () => reader.int32()).join());
    const data = place && unlessDamaged(() => readChunkHeader(source, header, place, offset));
    if (!place || !data) break;
    reached.set(place, data);
    offset = data.end;
  }
  return places.map(({ place }) => ({ place, data: reached.get(place) ?? null }));
}
