import { halfToFloat } from '../formats/index.ts';
import type { SentPicture } from './picture-message.ts';

/** A channel's value at a pixel. */
export interface ChannelValue {
  readonly channel: string;
  readonly value: number;
}

/** Where a place of the display window lies among the samples, in columns and rows. */
export function placeInSamples(info: SentPicture['info'], x: number, y: number): readonly [column: number, row: number] {
  const [left, top, right, bottom] = info.dataWindow;
  const across = (info.reduce * (right - left + 1)) / info.full[0];
  const down = (info.reduce * (bottom - top + 1)) / info.full[1];
  return [(x - (left - info.displayWindow[0]) - info.left) / across, (y - (top - info.displayWindow[1]) - info.top) / down];
}

/** Where the first sample of a pixel of the display window stands; null outside of the samples. */
function sampleIndex({ info }: SentPicture, x: number, y: number): number | null {
  const [column, row] = placeInSamples(info, x, y).map(Math.floor) as [number, number];
  if (column < 0 || row < 0 || column >= info.width || row >= info.height) return null;
  return (row * info.width + column) * info.channels.length;
}

/** The exact values of a pixel, as the file has them; integers as the whole numbers that they are. */
export function valuesAt(picture: SentPicture, x: number, y: number): ChannelValue[] {
  const index = sampleIndex(picture, x, y);
  if (index === null) return [];
  const { info, samples } = picture;
  return info.channels.map((channel, i) => ({ channel, value: info.type === 'half' ? halfToFloat(samples[index + i]!) : samples[index + i]! }));
}

/** The least and the largest value of the first channels, without what means "nothing there"; of some ten thousand samples. */
export function valueRangeOf({ info, samples }: SentPicture, channels: number): [number, number] {
  const count = info.channels.length;
  const pixels = info.width * info.height;
  const step = Math.max(1, Math.floor(pixels / 20_000));
  let [low, high] = [Infinity, -Infinity];
  for (let pixel = 0; pixel < pixels; pixel += step) {
    for (let i = 0; i < Math.min(channels, count); i++) {
      const sample = samples[pixel * count + i];
      const value = info.type === 'half' ? halfToFloat(sample) : info.type === 'u8' ? sample / 255 : info.type === 'u16' ? sample / 65535 : sample;
      if (!Number.isFinite(value) || Math.abs(value) >= 60_000) continue;
      if (value < low) low = value;
      if (value > high) high = value;
    }
  }
  return high >= low ? [low, high] : [0, 1];
}
