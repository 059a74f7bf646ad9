import { halfToFloat, inReadingOrder, type DecodedFrame, type PlaneType } from '../formats/index.ts';
import type { SentPicture } from './picture-message.ts';
import { placeInSamples } from './values.ts';

/** What the values of a channel come to in a region. */
export interface RegionSum {
  readonly channel: string;
  /** NaN where no sample is a finite number. */
  readonly least: number;
  readonly mean: number;
  readonly most: number;
  /** Samples that are no finite number; the other three leave them out. */
  readonly odd: number;
}

/**
 * Least, mean and largest value of each channel in a region, as the file has them.
 *
 * @param region left, top, width and height in pixels of the display window; what lies outside of the samples counts not
 */
export function regionSums(picture: SentPicture, [left, top, width, height]: readonly [number, number, number, number]): RegionSum[] {
  const { info, samples } = picture;
  const count = info.channels.length;
  const clamp = (value: number, most: number) => Math.min(most, Math.max(0, value));
  const [firstColumn, firstRow] = placeInSamples(info, left, top).map(Math.floor) as [number, number];
  const [endColumn, endRow] = placeInSamples(info, left + width, top + height).map(Math.ceil) as [number, number];
  const [x0, x1] = [clamp(firstColumn, info.width), clamp(endColumn, info.width)];
  const [y0, y1] = [clamp(firstRow, info.height), clamp(endRow, info.height)];
  return info.channels.map((channel, c) => {
    let [least, most, sum, finite, odd] = [Infinity, -Infinity, 0, 0, 0];
    for (let y = y0; y < y1; y++) {
      for (let x = x0, at = (y * info.width + x0) * count + c; x < x1; x++, at += count) {
        const value = info.type === 'half' ? halfToFloat(samples[at]!) : samples[at]!;
        if (!Number.isFinite(value)) {
          odd++;
          continue;
        }
        if (value < least) least = value;
        if (value > most) most = value;
        sum += value;
        finite++;
      }
    }
    return finite === 0 ? { channel, least: NaN, mean: NaN, most: NaN, odd } : { channel, least, mean: sum / finite, most, odd };
  });
}

/** How often each of 256 levels is seen, of red, green and blue, one after the other. @param seen four bytes a pixel */
export function histogramOf(seen: Uint8ClampedArray): Uint32Array {
  const counts = new Uint32Array(3 * 256);
  for (let at = 0; at < seen.length; at += 4) {
    counts[seen[at]!]!++;
    counts[256 + seen[at + 1]!]!++;
    counts[512 + seen[at + 2]!]!++;
  }
  return counts;
}

/** Levels of a waveform, from black up. */
export const WAVEFORM_LEVELS = 128;

/**
 * How often each level of brightness is seen in each of so many columns of the picture, column by column. Brightness is
 * that of the screen's own code values (luma by ITU-R BT.709).
 *
 * @param seen four bytes a pixel
 */
export function waveformOf(seen: Uint8ClampedArray, width: number, columns: number): Uint32Array {
  const counts = new Uint32Array(columns * WAVEFORM_LEVELS);
  for (let at = 0, pixel = 0; at < seen.length; at += 4, pixel++) {
    const luma = 0.2126 * seen[at]! + 0.7152 * seen[at + 1]! + 0.0722 * seen[at + 2]!;
    const column = Math.floor(((pixel % width) * columns) / width);
    counts[column * WAVEFORM_LEVELS + Math.min(WAVEFORM_LEVELS - 1, Math.floor((luma * WAVEFORM_LEVELS) / 256))]!++;
  }
  return counts;
}

/** A channel's value at a pixel, with what it is kept as. */
export interface PixelValue {
  readonly channel: string;
  readonly type: PlaneType;
  readonly value: number;
}

/** The values of every channel of a frame at a pixel of its display window, as the file has them; none outside of the data window. */
export function pixelOf({ header, planes }: DecodedFrame, x: number, y: number): PixelValue[] {
  const [first] = planes;
  if (!first) return [];
  const data = header.dataWindow ?? [0, 0, first.width - 1, first.height - 1];
  const display = header.displayWindow ?? data;
  const [across, down] = [x + display[0] - data[0], y + display[1] - data[1]];
  const [wide, high] = [data[2] - data[0] + 1, data[3] - data[1] + 1];
  if (across < 0 || down < 0 || across >= wide || down >= high) return [];
  const order = inReadingOrder(planes.map(({ channel }) => channel));
  const sorted = [...planes].sort((a, b) => order.indexOf(a.channel) - order.indexOf(b.channel));
  return sorted.map((plane) => {
    // A channel may hold fewer samples than the picture has pixels.
    const [column, row] = [Math.floor((across * plane.width) / wide), Math.floor((down * plane.height) / high)];
    const sample = plane.data[plane.offset + (row * plane.width + column) * plane.stride]!;
    return { channel: plane.channel, type: plane.type, value: plane.type === 'half' ? halfToFloat(sample) : sample };
  });
}
