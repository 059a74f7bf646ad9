import { aspectFraction, type InterleavedPicture } from '../interleaved.ts';

const HEADER_BYTES = 2048;
/** Encryption, origin, border, place in the film, and all of the television header. */
const UNSAID = [
  [660, 664],
  [1408, 1432],
  [1620, 1628],
  [1712, 1732],
  [1920, 1972],
] as const;
const UNDEFINED = 0xffffffff;
const DESCRIPTORS = { 1: 6, 2: null, 3: 50, 4: 51 } as const;
const FILLED_TO_WORDS = 1;
/** Transfer characteristics and colorimetry (SMPTE ST 268-1, table 5). */
const TRANSFERS = { linear: 2, rec709: 6, srgb: 0 } as const;

/** What DPX notes of how its numbers stand for light. */
export type DpxTransfer = keyof typeof TRANSFERS;

/**
 * Writes a picture as DPX (SMPTE ST 268-1:2014), its numbers with the highest byte first; 10 bits are filled to words of 32, their
 * two low bits left over. Grey with alpha has no element of its own.
 *
 * @param bits 8 from samples of 8 bits; 10 or 16 from those of 16
 */
export function encodeDpx(picture: InterleavedPicture & { readonly samplesPerPixel: 1 | 3 | 4 }, bits: 8 | 10 | 16, transfer: DpxTransfer): Uint8Array {
  const { width, height, samplesPerPixel: samples, data, notes = {} } = picture;
  const perRow = width * samples;
  const rowBytes = bits === 10 ? 4 * Math.ceil(perRow / 3) : 4 * Math.ceil((perRow * (bits / 8)) / 4);
  const out = new Uint8Array(HEADER_BYTES + rowBytes * height);
  const view = new DataView(out.buffer);
  // What nobody says anything of is all ones where it is a number, and empty where it is a text (section 5).
  for (const [from, to] of UNSAID) out.fill(0xff, from, to);
  const text = (at: number, length: number, value = '') => out.set(new TextEncoder().encode(value).subarray(0, length - 1), at);
  out.set([0x53, 0x44, 0x50, 0x58]);
  view.setUint32(4, HEADER_BYTES);
  text(8, 8, 'V2.0');
  view.setUint32(16, out.length);
  view.setUint32(20, 1);
  view.setUint32(24, 1664);
  view.setUint32(28, 384);
  text(160, 100, notes.creator);
  text(260, 200, notes.project);
  view.setUint16(770, 1);
  view.setUint32(772, width);
  view.setUint32(776, height);
  // The reference low and high code values, and the quantities that they stand for, are the whole range.
  view.setUint32(792, 2 ** bits - 1);
  view.setFloat32(796, 1);
  out[800] = DESCRIPTORS[samples];
  out[801] = TRANSFERS[transfer];
  out[802] = TRANSFERS[transfer];
  out[803] = bits;
  view.setUint16(804, bits === 10 ? FILLED_TO_WORDS : 0);
  view.setUint32(808, HEADER_BYTES);
  const [across, down] = aspectFraction(picture.pixelAspect ?? 1);
  view.setUint32(1628, across);
  view.setUint32(1632, down);
  const rate = Number(notes.framesPerSecond);
  if (Number.isFinite(rate) && rate > 0) {
    view.setFloat32(1724, rate);
    view.setFloat32(1940, rate);
  }
  const code = Number(notes.timeCode);
  if (Number.isInteger(code) && code > 0 && code < UNDEFINED) view.setUint32(1920, code);
  for (let y = 0; y < height; y++) writeRow(view, HEADER_BYTES + y * rowBytes, data.subarray(y * perRow, (y + 1) * perRow), bits, samples);
  return out;
}

function writeRow(view: DataView, at: number, row: InterleavedPicture['data'], bits: 8 | 10 | 16, samples: number): void {
  if (bits === 8) row.forEach((value, i) => view.setUint8(at + i, value));
  else if (bits === 16) row.forEach((value, i) => view.setUint16(at + 2 * i, value));
  else {
    // Of several channels the first of three stands highest in its word; of a single one, lowest, as readers agree.
    const places = samples === 1 ? [2, 12, 22] : [22, 12, 2];
    for (let i = 0; i < row.length; i += 3) {
      let word = 0;
      for (let p = 0; p < 3 && i + p < row.length; p++) word |= tenBits(row[i + p]!) << places[p]!;
      view.setUint32(at + (i / 3) * 4, word >>> 0);
    }
  }
}

/** A code value over the full scale of 16 bits in ten. */
const tenBits = (value: number) => Math.round((value * 1023) / 65535);
