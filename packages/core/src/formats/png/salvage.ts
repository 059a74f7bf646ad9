import { ByteReader, type ByteSource } from '../byte-source.ts';
import { FrameFileError, NotDecodedError } from '../errors.ts';
import { boundDecoded, type Salvaged, type SalvageTools } from '../frame.ts';
import { lostRows, NO_ROW } from '../salvage.ts';
import { gather16, gather8, layOut, makePlanes } from './decode.ts';
import { unfilter } from './filters.ts';
import { PNG_SIGNATURE, pngFrameHeader, SAMPLES_PER_PIXEL, type PngChunk, type PngPreamble } from './header.ts';

/**
 * Decodes the rows that the pixel data gives before it ends or breaks off. What comes after the first piece whose
 * checksum is wrong is shown, and said to be damaged.
 *
 * @throws FrameFileError when there is not one row, NotDecodedError for interlaced pictures
 */
export function salvagePng(source: ByteSource, preamble: PngPreamble, tools: SalvageTools): Salvaged {
  const { image } = preamble;
  if (image.interlaced) throw new NotDecodedError('Of a damaged interlaced picture nothing is shown.');
  const bytes = source.read(0, source.size);
  const { pieces, sound, palette, transparency } = findPieces(bytes, tools);
  const [whole] = layOut(image);
  const rowLength = whole!.rowBytes + 1;
  const expected = whole!.height * rowLength;
  boundDecoded(Math.max(expected, image.width * image.height * 8), image.width, image.height);
  const raw = new Uint8Array(expected);
  const given = tools.inflateStart(join(bytes, pieces), expected + 1);
  raw.set(given.subarray(0, expected));
  const rows = Math.floor(Math.min(given.length, expected) / rowLength);
  const trusted =
    sound === pieces.length ? rows : Math.min(rows, Math.floor(tools.inflateStart(join(bytes, pieces.slice(0, sound)), expected + 1).length / rowLength));
  if (rows === 0) throw new FrameFileError('truncated', NO_ROW);
  // A row that was cut is none: its filter would take from what is not there.
  raw.fill(0, rows * rowLength);
  const samples = SAMPLES_PER_PIXEL[image.colourType];
  const bytesPerPixel = Math.max(1, (samples * image.bitDepth) >> 3);
  const part = { ...whole!, rows: unfilter(raw, whole!.rowBytes, whole!.height, bytesPerPixel, image.bitDepth === 16) };
  const interleaved = image.bitDepth === 16 ? gather16(image, [part], samples) : gather8(image, [part], samples);
  const planes = makePlanes(interleaved, bytes, { data: pieces, palette, transparency, report: { trailingBytes: 0 } }, preamble);
  return { frame: { header: pngFrameHeader(preamble), planes }, damage: lostRows(image, trusted) };
}

interface Pieces {
  /** Of the pixel data, the last one cut where the file ends. */
  readonly pieces: readonly PngChunk[];
  /** How many of them, from the first on, have the checksum that they say. */
  readonly sound: number;
  readonly palette: PngChunk | null;
  readonly transparency: PngChunk | null;
}

/** Looks for the pixel data as long as one chunk leads to the next. */
function findPieces(bytes: Uint8Array, tools: SalvageTools): Pieces {
  const pieces: PngChunk[] = [];
  let [sound, isSound] = [0, true];
  let palette: PngChunk | null = null;
  let transparency: PngChunk | null = null;
  for (let position = PNG_SIGNATURE.length; position + 8 < bytes.length;) {
    const reader = new ByteReader(bytes.subarray(position, position + 8), { littleEndian: false });
    const stated = reader.uint32();
    const type = String.fromCharCode(...reader.take(4));
    if (!/^[A-Za-z]{4}$/.test(type) || type === 'IEND') break;
    const end = position + 8 + stated;
    const chunk: PngChunk = { type, offset: position + 8, length: Math.min(stated, bytes.length - position - 8) };
    if (type === 'IDAT') {
      const checksum = end + 4 <= bytes.length ? new ByteReader(bytes.subarray(end, end + 4), { littleEndian: false }).uint32() : null;
      isSound &&= checksum !== null && checksum === tools.crc32(bytes.subarray(position + 4, end));
      // What a cut piece still has is sound as far as it goes.
      if (isSound || (checksum === null && sound === pieces.length)) sound = pieces.length + 1;
      pieces.push(chunk);
    } else if (type === 'PLTE') palette = chunk;
    else if (type === 'tRNS') transparency = chunk;
    position = end + 4;
  }
  return { pieces, sound, palette, transparency };
}

function join(bytes: Uint8Array, pieces: readonly PngChunk[]): Uint8Array {
  const joined = new Uint8Array(pieces.reduce((sum, { length }) => sum + length, 0));
  let position = 0;
  for (const { offset, length } of pieces) {
    joined.set(bytes.subarray(offset, offset + length), position);
    position += length;
  }
  return joined;
}
