import type { EncoderTools } from '../frame.ts';
import { aspectFraction, type InterleavedPicture } from '../interleaved.ts';
import { TAG } from './tags.ts';

/** Field types (TIFF 6.0, section 2). */
const ASCII = 2;
const SHORT = 3;
const LONG = 4;
const RATIONAL = 5;
const TYPE_BYTES = { [ASCII]: 1, [SHORT]: 2, [LONG]: 4, [RATIONAL]: 8 } as const;

/** Bytes of a strip before it is packed, about; as the specification advises, with room for what unpacks quickly today. */
const STRIP_BYTES = 1 << 16;
const DEFLATE = 8;
const HORIZONTAL = 2;
const USUAL_RESOLUTION = 72;

interface Field {
  readonly tag: number;
  readonly type: keyof typeof TYPE_BYTES;
  /** Rationals as numerator and denominator, one behind the other. */
  readonly values: readonly number[];
}

/** Writes a picture as TIFF: strips, deflated, whole numbers as differences (section 14). The same input gives the same bytes. */
export function encodeTiff(picture: InterleavedPicture, tools: EncoderTools): Uint8Array {
  const { width, height, samplesPerPixel: samples, data, isHalf = false, notes = {} } = picture;
  const bytesPerSample = data.BYTES_PER_ELEMENT;
  const isFloat = isHalf || data instanceof Float32Array;
  const rowBytes = width * samples * bytesPerSample;
  const rowsPerStrip = Math.max(1, Math.min(height, Math.floor(STRIP_BYTES / rowBytes)));
  const strips: Uint8Array[] = [];
  for (let row = 0; row < height; row += rowsPerStrip) {
    const part = data.slice(row * width * samples, Math.min(height, row + rowsPerStrip) * width * samples);
    if (!isFloat) takeDifferences(part as Uint8Array | Uint16Array, width * samples, samples);
    strips.push(tools.deflate(new Uint8Array(part.buffer)));
  }
  const [across, down] = aspectFraction(picture.pixelAspect ?? 1);
  const hasAlpha = samples % 2 === 0;
  const described = Object.entries(notes).map(([name, value]) => `${name}: ${value}`);
  const each = (value: number) => new Array<number>(samples).fill(value);
  const fields: Field[] = [
    { tag: TAG.width, type: LONG, values: [width] },
    { tag: TAG.height, type: LONG, values: [height] },
    { tag: TAG.bitsPerSample, type: SHORT, values: each(8 * bytesPerSample) },
    { tag: TAG.compression, type: SHORT, values: [DEFLATE] },
    { tag: TAG.photometric, type: SHORT, values: [samples > 2 ? 2 : 1] },
    ...(described.length > 0 ? [textField(TAG.description, described.join('\n'))] : []),
    { tag: TAG.stripOffsets, type: LONG, values: strips.map(() => 0) },
    { tag: TAG.samplesPerPixel, type: SHORT, values: [samples] },
    { tag: TAG.rowsPerStrip, type: LONG, values: [rowsPerStrip] },
    { tag: TAG.stripByteCounts, type: LONG, values: strips.map(({ length }) => length) },
    // More dots an inch make a pixel smaller.
    { tag: TAG.resolutionX, type: RATIONAL, values: [USUAL_RESOLUTION * down, down] },
    { tag: TAG.resolutionY, type: RATIONAL, values: [USUAL_RESOLUTION * across, down] },
    { tag: TAG.planar, type: SHORT, values: [1] },
    ...(isFloat ? [] : [{ tag: TAG.predictor, type: SHORT, values: [HORIZONTAL] } as const]),
    ...(hasAlpha ? [{ tag: TAG.extraSamples, type: SHORT, values: [picture.alphaKind === 'premultiplied' ? 1 : 2] } as const] : []),
    { tag: TAG.sampleFormat, type: SHORT, values: each(isFloat ? 3 : 1) },
  ];
  return joinFile(fields, strips);
}

function textField(tag: number, text: string): Field {
  return { tag, type: ASCII, values: [...new TextEncoder().encode(text), 0] };
}

/** Each sample less the one before it of its channel, row by row. */
function takeDifferences(samples: Uint8Array | Uint16Array, perRow: number, channels: number): void {
  for (let row = 0; row < samples.length; row += perRow)
    for (let i = row + perRow - 1; i >= row + channels; i--) samples[i] = samples[i]! - samples[i - channels]!;
}

/** Header, directory, what does not fit into it, then the strips. */
function joinFile(fields: readonly Field[], strips: readonly Uint8Array[]): Uint8Array {
  const HEADER = 8;
  const directory = 2 + 12 * fields.length + 4;
  const bytesOf = ({ type, values }: Field) => (type === RATIONAL ? (values.length / 2) * 8 : values.length * TYPE_BYTES[type]);
  let end = HEADER + directory;
  const places = fields.map((field) => {
    if (bytesOf(field) <= 4) return null;
    const place = end;
    end += bytesOf(field) + (bytesOf(field) % 2);
    return place;
  });
  const offsets = strips.map((strip) => {
    const offset = end;
    end += strip.length + (strip.length % 2);
    return offset;
  });
  const out = new Uint8Array(end);
  const view = new DataView(out.buffer);
  out.set([0x49, 0x49, 42, 0]);
  view.setUint32(4, HEADER, true);
  view.setUint16(HEADER, fields.length, true);
  fields.forEach((field, i) => {
    const at = HEADER + 2 + 12 * i;
    const values = field.tag === TAG.stripOffsets ? offsets : field.values;
    view.setUint16(at, field.tag, true);
    view.setUint16(at + 2, field.type, true);
    view.setUint32(at + 4, field.type === RATIONAL ? values.length / 2 : values.length, true);
    const place = places[i] ?? at + 8;
    if (places[i] !== null) view.setUint32(at + 8, place, true);
    values.forEach((value, v) => {
      if (field.type === ASCII) out[place + v] = value;
      else if (field.type === SHORT) view.setUint16(place + 2 * v, value, true);
      else view.setUint32(place + 4 * v, value, true);
    });
  });
  strips.forEach((strip, i) => out.set(strip, offsets[i]));
  return out;
}
