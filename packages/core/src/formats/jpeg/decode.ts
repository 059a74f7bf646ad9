import { memorySource, type ByteSource } from '../byte-source.ts';
import { JpegPicture } from '../../kernels/index.ts';
import { FrameFileError, NotDecodedError } from '../errors.ts';
import { boundDecoded, type Decoded, type DecodedFrame } from '../frame.ts';
import { interleavedPlanes } from '../planes.ts';
import { makeHuffmanTable, type HuffmanTable } from './entropy.ts';
import { jpegFrameHeader, type JpegImage } from './header.ts';
import { isFrameMarker, MARKER, readSegment, type Segment } from './markers.ts';
import { wideningOf } from './samples.ts';
import { decodeScan, shapesOf, type ScanHeader } from './scan.ts';

/**
 * Pixels that a byte can become at most: every block of 8 x 8 takes a bit at least for its mean,
 * and stands for 32 x 32 pixels where a component is sampled at a quarter.
 */
const LARGEST_RATIO = 8 * 32 * 32;
/** Pictures of more scans than this are made to keep readers busy. */
const MAXIMUM_SCANS = 100;
/** The frame marker of a picture that comes in scans from coarse to fine. */
export const PROGRESSIVE = 0xc2;

/**
 * Decodes every scan and every pixel: baseline, extended and progressive pictures of 8 bits.
 *
 * @throws FrameFileError, NotDecodedError for 12 bits, lossless and arithmetic coding
 */
export function decodeJpeg(source: ByteSource, image: JpegImage): Decoded {
  const bytes = source.read(0, source.size);
  if (isForeign(image)) checkOnly(bytes, image);
  const picture = beginPicture(bytes, image);
  const walk = beginWalk();
  walkScans(bytes, image, picture, walk);
  const missing = image.components.length - walk.seen.size;
  if (missing > 0) throw new FrameFileError('corrupt', `${missing} of ${image.components.length} components were never written.`);
  return { frame: finishPicture(image, picture, walk), report: { trailingBytes: bytes.length - walk.position } };
}

/** 12 bits, lossless and arithmetic coding. */
function isForeign({ bits, process }: JpegImage): boolean {
  return bits !== 8 || process > 0xc2;
}

/** Room for the blocks of a picture. @throws FrameFileError, NotDecodedError for what is not decoded */
export function beginPicture(bytes: Uint8Array, image: JpegImage): JpegPicture {
  if (isForeign(image))
    throw new NotDecodedError(`JPEG of ${image.bits} bits by process ${image.process & 15} cannot be looked into; the structure of the file is whole.`);
  if (image.width * image.height > bytes.length * LARGEST_RATIO) {
    throw new FrameFileError('corrupt', `The header promises ${image.width} x ${image.height} pixels, more than the file can hold.`);
  }
  boundDecoded(image.width * image.height * image.components.length * 4, image.width, image.height);
  return new JpegPicture(bytes, image.width, image.height, shapesOf(image));
}

/** Turns the blocks that were decoded into pixels. @throws FrameFileError when a table for it is not there */
export function finishPicture(image: JpegImage, picture: JpegPicture, { tables }: Walk): DecodedFrame {
  const quantisation = image.components.map(({ table: number }) => {
    const table = tables.quantisation.get(number);
    if (!table) throw new FrameFileError('corrupt', `The quantisation table ${number} is not there.`);
    return table;
  });
  picture.makeSamples(quantisation);
  return { header: jpegFrameHeader(image), planes: toColours(image, picture) };
}

/** @throws FrameFileError when it has no end */
function checkOnly(bytes: Uint8Array, image: JpegImage): void {
  if (bytes[bytes.length - 2] !== 0xff || bytes[bytes.length - 1] !== MARKER.eoi) {
    throw new FrameFileError('truncated', `The ${image.width} x ${image.height} picture has no closing marker.`);
  }
}

/** How far a walk through the segments has come. */
export interface Walk {
  readonly tables: {
    readonly quantisation: Map<number, Uint16Array>;
    readonly dc: Map<number, HuffmanTable>;
    readonly ac: Map<number, HuffmanTable>;
    restartInterval: number;
  };
  /** The components of the scans that were whole. */
  readonly seen: Set<number>;
  /** The last one that was begun. */
  scan: ScanHeader | null;
  position: number;
}

export function beginWalk(): Walk {
  return { tables: { quantisation: new Map(), dc: new Map(), ac: new Map(), restartInterval: 0 }, seen: new Set(), scan: null, position: 2 };
}

/** Decodes scan after scan up to the closing marker. @throws FrameFileError; the walk tells how far it came */
export function walkScans(bytes: Uint8Array, image: JpegImage, picture: JpegPicture, walk: Walk): void {
  const source = memorySource(bytes);
  const shapes = shapesOf(image);
  const { tables } = walk;
  for (let scans = 0; ;) {
    const segment = readSegment(source, walk.position);
    walk.position = segment.end;
    if (segment.marker === MARKER.eoi) return;
    if (segment.marker === MARKER.dqt) readQuantisation(segment, tables.quantisation);
    else if (segment.marker === MARKER.dht) readHuffman(segment, tables);
    else if (segment.marker === MARKER.dri) tables.restartInterval = segment.data.length === 2 ? (segment.data[0] << 8) | segment.data[1] : 0;
    else if (isFrameMarker(segment.marker) && segment.offset !== image.frameOffset)
      throw new FrameFileError('corrupt', 'The file holds a second frame header.');
    else if (segment.marker === MARKER.sos) {
      if (++scans > MAXIMUM_SCANS) throw new FrameFileError('corrupt', `The picture has more than ${MAXIMUM_SCANS} scans.`);
      walk.scan = readScanHeader(segment, image, tables);
      walk.position = decodeScan(picture, shapes, bytes.length, segment.end, walk.scan, image.process === PROGRESSIVE);
      walk.scan.components.forEach(({ index }) => walk.seen.add(index));
    }
  }
}

function readQuantisation({ data, offset }: Segment, tables: Map<number, Uint16Array>): void {
  for (let at = 0; at < data.length;) {
    const wide = data[at] >> 4 !== 0;
    if (at + 1 + (wide ? 128 : 64) > data.length) throw new FrameFileError('corrupt', `The quantisation table at byte ${offset} is cut short.`);
    const start = at + 1;
    tables.set(
      data[at] & 15,
      Uint16Array.from({ length: 64 }, (_, i) => (wide ? (data[start + 2 * i]! << 8) | data[start + 2 * i + 1]! : data[start + i]!)),
    );
    at = start + (wide ? 128 : 64);
  }
}

function readHuffman({ data, offset }: Segment, tables: { dc: Map<number, HuffmanTable>; ac: Map<number, HuffmanTable> }): void {
  for (let at = 0; at < data.length;) {
    const counts = data.subarray(at + 1, at + 17);
    const total = counts.reduce((sum, count) => sum + count, 0);
    if (at + 17 + total > data.length || total > 256) throw new FrameFileError('corrupt', `The table of codes at byte ${offset} is cut short.`);
    (data[at] >> 4 === 0 ? tables.dc : tables.ac).set(data[at] & 15, makeHuffmanTable(counts, data.slice(at + 17, at + 17 + total)));
    at += 17 + total;
  }
}

function readScanHeader(
  { data, offset }: Segment,
  { components, process }: JpegImage,
  tables: { dc: Map<number, HuffmanTable>; ac: Map<number, HuffmanTable>; restartInterval: number },
): ScanHeader {
  const count = data.length > 0 ? data[0]! : 0;
  const broken = (why: string) => new FrameFileError('corrupt', `The scan header at byte ${offset} is impossible: ${why}.`);
  if (count < 1 || count > 4 || data.length < 4 + count * 2) throw broken(`it lists ${count} components`);
  const chosen = Array.from({ length: count }, (_, i) => {
    const [id, selectors] = [data[1 + i * 2]!, data[2 + i * 2]!];
    const index = components.findIndex((component) => component.id === id);
    if (index < 0) throw broken(`it asks for component ${id}`);
    return { index, dc: tables.dc.get(selectors >> 4) ?? null, ac: tables.ac.get(selectors & 15) ?? null };
  });
  if (new Set(chosen.map(({ index }) => index)).size < count) throw broken('it names a component twice');
  const [first, last, approximation] = data.subarray(1 + count * 2);
  const [high, low] = [approximation >> 4, approximation & 15];
  if (process === PROGRESSIVE && (first > last || last > 63 || low > 13 || (first === 0 && last > 0) || (first > 0 && count > 1)))
    throw broken('its band is out of bounds');
  return { components: chosen, first, last, high, low, restartInterval: tables.restartInterval };
}

function toColours(image: JpegImage, picture: JpegPicture) {
  const { width, height, components } = image;
  const across = Math.max(...components.map((component) => component.across));
  const down = Math.max(...components.map((component) => component.down));
  const widenings = shapesOf(image).map((shape) => wideningOf(shape.width, across / shape.across, down / shape.down));
  const data = picture.pixels(widenings, usesLumaAndChroma(image));
  // Adobe writes inks inverted. Its YCCK is made of what the inks leave of red, green and blue, which is the inks inverted already.
  if (components.length === 4 && image.transform !== null) {
    const first = image.transform === YCCK ? 3 : 0;
    for (let i = 0; i < data.length; i += 4) for (let c = first; c < 4; c++) data[i + c] = 255 - data[i + c];
  }
  const names = jpegFrameHeader(image).channels.map((channel) => channel.name);
  return interleavedPlanes(names, width, height, 'u8', data);
}

/** Adobe's transform of luma, chroma and black. */
const YCCK = 2;

/** Three components are luma and chroma unless Adobe's segment or their names say otherwise. */
function usesLumaAndChroma({ components, transform }: JpegImage): boolean {
  if (components.length === 4) return transform === YCCK;
  if (components.length !== 3) return false;
  if (transform !== null) return transform !== 0;
  return !(components[0]!.id === 0x52 && components[1]!.id === 0x47 && components[2]!.id === 0x42);
}
