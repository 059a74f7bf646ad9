import { encodeDpx, encodePng, encodeTga, encodeTiff, floatToHalf, type DecodedFrame, type EncoderTools, type InterleavedPicture } from '../formats/index.ts';
import type { Recipe } from '../mend/index.ts';
import type { Channel } from './channel.ts';
import { NotConvertedError } from './channels.ts';
import type { Numbers } from './numbers.ts';
import type { SampleType } from './sample-type.ts';

/** A channel in the display window. */
export interface PlacedChannel extends Pick<Channel, 'name' | 'part' | 'kind'> {
  readonly values: Numbers;
}

/** The picture of the display window: what lies outside is cut, what is not there is nothing. */
export function placeInDisplay(
  channels: readonly Channel[],
  { header }: DecodedFrame,
): { placed: PlacedChannel[]; width: number; height: number; cut: number } {
  const { dataWindow: data, displayWindow: display, width, height } = header;
  if (!data || !display || data.every((edge, i) => edge === display[i]))
    return { placed: [...channels], width: channels[0]!.plane.width, height: channels[0]!.plane.height, cut: 0 };
  const across = data[2] - data[0] + 1;
  const [left, right] = [Math.max(data[0], display[0]), Math.min(data[2], display[2])];
  const [top, bottom] = [Math.max(data[1], display[1]), Math.min(data[3], display[3])];
  const placed = channels.map((channel) => {
    const values = new Float32Array(width * height);
    for (let y = top; y <= bottom && right >= left; y++) {
      const from = (y - data[1]) * across + left - data[0];
      values.set(channel.values.subarray(from, from + right - left + 1), (y - display[1]) * width + left - display[0]);
    }
    return { name: channel.name, part: channel.part, kind: channel.kind, values };
  });
  const inside = Math.max(0, right - left + 1) * Math.max(0, bottom - top + 1);
  return { placed, width, height, cut: across * (data[3] - data[1] + 1) - inside };
}

/** Channels pixel by pixel, as the depth asks. */
export function interleave(
  channels: readonly PlacedChannel[],
  width: number,
  height: number,
  type: SampleType,
  { header }: DecodedFrame,
  alphaKind: 'straight' | 'premultiplied',
): InterleavedPicture {
  const samples = channels.length as 1 | 2 | 3 | 4;
  const count = width * height * samples;
  const isHalf = type === 'half';
  const data = type === '8' ? new Uint8Array(count) : type === 'float' ? new Float32Array(count) : new Uint16Array(count);
  channels.forEach(({ values }, c) => {
    if (isHalf) for (let i = 0; i < values.length; i++) data[i * samples + c] = floatToHalf(values[i]!);
    else if (type === 'float') for (let i = 0; i < values.length; i++) data[i * samples + c] = values[i]!;
    else writeCodes(values, data, c, samples, type === '8' ? 255 : 65535);
  });
  const notes = Object.fromEntries(Object.entries(header.metadata).map(([name, value]) => [name, String(value)]));
  return { width, height, samplesPerPixel: samples, data, isHalf, alphaKind, notes, pixelAspect: header.pixelAspect ?? 1 };
}

/** What is no number has no code, and becomes nothing; what is below 0 or above 1 is cut. */
function writeCodes(values: Numbers, data: InterleavedPicture['data'], offset: number, stride: number, full: number): void {
  for (let i = 0, to = offset; i < values.length; i++, to += stride) {
    const value = values[i]!;
    data[to] = value >= 1 ? full : value > 0 ? Math.round(value * full) : 0;
  }
}

/** The file of a picture. @throws NotConvertedError */
export function encodePicture(picture: InterleavedPicture, { format, curve }: Recipe, type: SampleType, tools: EncoderTools): Uint8Array {
  switch (format) {
    case 'png':
      return encodePng({ ...picture, data: picture.data as Uint8Array | Uint16Array }, tools);
    case 'tiff':
      return encodeTiff(picture, tools);
    case 'tga':
      return encodeTga(picture);
    case 'dpx': {
      const { samplesPerPixel } = picture;
      if (samplesPerPixel === 2) throw new NotConvertedError('DPX has no place for grey with alpha.', 'Leave the alpha away.');
      return encodeDpx({ ...picture, samplesPerPixel }, Number(type) as 8 | 10 | 16, curve);
    }
    default:
      throw new NotConvertedError(`${format} is not written here.`, 'Choose another format.');
  }
}
