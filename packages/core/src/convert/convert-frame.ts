import {
  encodeDpx,
  encodeExrParts,
  encodePng,
  encodeTga,
  encodeTiff,
  floatToHalf,
  isAlphaName,
  type DecodedFrame,
  type EncoderTools,
  type ExrAttribute,
  type ExrChannelData,
  type ExrPicture,
  type InterleavedPicture,
  type PixelWindow,
} from '../formats/index.ts';
import type { Recipe } from '../mend/index.ts';
import { chooseChannels, chooseUnnamed, isColour, layerOf, NotConvertedError, type ChosenChannel } from './channels.ts';
import { notesForExr } from './notes.ts';
import { decodeCode, encodeLight, kindOf, numbersOf, type NumberKind } from './numbers.ts';

/** A file that something is made of. */
export interface ConvertSource {
  readonly frame: DecodedFrame;
  /** How its alpha is meant; null where nobody says, and it is taken for what the new file says. */
  readonly alphaKind: 'straight' | 'premultiplied' | null;
  /** All that an EXR's header says, but for how its pixels are kept; null for other formats. */
  readonly attributes: ReadonlyMap<string, ExrAttribute> | null;
}

/** A channel as it would be if numbers had no end: what the file's own are held against. */
export interface WantedChannel {
  readonly name: string;
  readonly values: Float64Array;
  readonly width: number;
  readonly kind: NumberKind;
}

/** What is made: the file's bytes, or a picture that somebody else packs; and what it should be. */
export interface ConvertedFrame {
  readonly bytes: Uint8Array | null;
  /** Of a JPEG, which a library writes. */
  readonly jpeg: InterleavedPicture | null;
  readonly wanted: readonly WantedChannel[];
  /** Channels that the new file has no place for. */
  readonly left: readonly string[];
  /** Pixels outside of the display window that the new file has no place for. */
  readonly cut: number;
  /** Pixels that have light without alpha, which straight alpha cannot say. */
  readonly glowing: number;
}

/** A channel on its way: its numbers, and what kind they are now. */
interface Channel extends ChosenChannel {
  kind: NumberKind;
  values: Float64Array;
}

/**
 * Makes a file of others by a recipe: kind of numbers, alpha, channels, format. The same input gives the same bytes.
 *
 * @throws NotConvertedError where the format cannot hold what is asked, or the files do not fit together
 */
export function convertFrame(sources: readonly ConvertSource[], recipe: Recipe, tools: EncoderTools): ConvertedFrame {
  const chosen = chooseChannels(
    sources.map(({ frame }) => frame),
    recipe,
  );
  const isExr = recipe.format === 'exr';
  const { taken, left } = isExr ? { taken: chosen, left: [] } : chooseUnnamed(chosen, recipe.format);
  checkSizes(taken, sources);
  const channels = taken.map((channel): Channel => ({ ...channel, kind: kindOf(channel.plane), values: numbersOf(channel.plane) }));
  const type = targetType(channels, recipe);
  const wantsLight = type === 'half' || type === 'float';
  // Alpha is multiplied in light where there is light on either side, and in codes where there are codes on both.
  for (const channel of channels) if (wantsLight && channel.kind === 'code') toLight(channel, recipe);
  const glowing = turnAlpha(channels, sources, recipe);
  if (!wantsLight) for (const channel of channels) if (channel.kind === 'light') toCodes(channel, recipe);
  const first = sources[taken[0]!.file]!.frame;
  const wanted = (at: readonly Channel[], width: number) =>
    at.map(({ name, part, values, kind }) => ({ name: part === '' ? name : `${part}.${name}`, values, width, kind }));
  if (isExr) {
    const bytes = encodeExrParts(exrParts(channels, sources, recipe, type), tools);
    return { bytes, jpeg: null, wanted: wanted(channels, channels[0]!.plane.width), left: [], cut: 0, glowing };
  }
  const { placed, width, height, cut } = placeInDisplay(channels, first);
  const picture = interleave(placed, width, height, type, first, alphaAfter(sources[taken[0]!.file]!, recipe));
  const told = { wanted: wanted(placed, width), left: left.map(({ name }) => name), cut, glowing };
  if (recipe.format === 'jpeg') return { bytes: null, jpeg: picture, ...told };
  return { bytes: encodePicture(picture, recipe, type, tools), jpeg: null, ...told };
}

function checkSizes(chosen: readonly ChosenChannel[], sources: readonly ConvertSource[]): void {
  for (const { plane, file, part, name } of chosen) {
    const { dataWindow, width, height } = sources[file]!.frame.header;
    const [across, down] = dataWindow ? [dataWindow[2] - dataWindow[0] + 1, dataWindow[3] - dataWindow[1] + 1] : [width, height];
    if (plane.width !== across || plane.height !== down)
      throw new NotConvertedError(
        `The channel ${name} has ${plane.width} x ${plane.height} pixels where the picture has ${across} x ${down}.`,
        'Leave it out, or keep the file as it is.',
      );
    const beside = chosen.find((other) => other.part === part)!;
    if (beside.plane.width !== plane.width || beside.plane.height !== plane.height || !isSameWindow(sources[beside.file]!, sources[file]!))
      throw new NotConvertedError('The files have pictures of different sizes or windows.', 'Gather them as parts: each keeps its own window.');
  }
}

function isSameWindow(a: ConvertSource, b: ConvertSource): boolean {
  return JSON.stringify(a.frame.header.dataWindow) === JSON.stringify(b.frame.header.dataWindow);
}

type SampleType = '8' | '10' | '16' | 'half' | 'float' | 'uint';

/** Which depths a format can be written with; the first of them where none of the source's fits. */
const HOLDS: Record<Recipe['format'], readonly SampleType[]> = {
  exr: ['half', 'float', 'uint'],
  png: ['16', '8'],
  tiff: ['16', '8', 'half', 'float'],
  jpeg: ['8'],
  tga: ['8'],
  dpx: ['16', '10', '8'],
};

function targetType(channels: readonly Channel[], { depth, format }: Recipe): SampleType {
  const holds = HOLDS[format];
  if (depth !== 'same') {
    if (!holds.includes(depth))
      throw new NotConvertedError(`${format.toUpperCase()} does not hold ${/\d/.test(depth) ? `${depth} bits` : depth}.`, 'Choose another depth.');
    return depth;
  }
  if (format !== 'exr' && channels.some(({ kind }) => kind === 'id'))
    throw new NotConvertedError('Whole numbers of 32 bits are held by EXR alone.', 'Convert to EXR.');
  const types = new Set(channels.map(({ plane }) => plane.type));
  const wish: SampleType = types.has('float')
    ? 'float'
    : types.has('half')
      ? 'half'
      : types.has('u16')
        ? format === 'exr'
          ? 'float'
          : '16'
        : format === 'exr'
          ? 'half'
          : '8';
  return holds.includes(wish) ? wish : holds[0]!;
}

function toLight(channel: Channel, { curve }: Recipe): void {
  if (!isAlphaName(channel.name)) channel.values = channel.values.map((code) => decodeCode(code, isColour(channel.name) ? curve : 'linear'));
  channel.kind = 'light';
}

function toCodes(channel: Channel, { curve }: Recipe): void {
  if (isColour(channel.name)) channel.values = channel.values.map((light) => encodeLight(light, curve));
  channel.kind = 'code';
}

/** What kind of alpha a file has when a recipe is done with it. */
function alphaAfter(source: ConvertSource, { alpha, format }: Recipe): 'straight' | 'premultiplied' {
  if (alpha === 'straight' || alpha === 'premultiplied') return alpha;
  // PNG's alpha is straight by its own rule, EXR's premultiplied where nobody says otherwise.
  return format === 'png' ? 'straight' : (source.alphaKind ?? 'premultiplied');
}

/** Multiplies colours by their layer's alpha or divides by it, where that is asked. @returns pixels with light where alpha is 0 */
function turnAlpha(channels: readonly Channel[], sources: readonly ConvertSource[], recipe: Recipe): number {
  let glowing = 0;
  const layers = new Set(channels.map(({ name, part, file }) => `${part}\0${file}\0${layerOf(name)}`));
  for (const layer of layers) {
    const own = channels.filter(({ name, part, file }) => `${part}\0${file}\0${layerOf(name)}` === layer);
    const alpha = own.find(({ name }) => isAlphaName(name));
    const source = sources[own[0]!.file]!;
    const from = source.alphaKind;
    const to = alphaAfter(source, recipe);
    if (!alpha || from === null || from === to) continue;
    const colours = own.filter((channel) => channel !== alpha && isColour(channel.name));
    const { values: covers } = alpha;
    for (let i = 0; i < covers.length; i++) {
      const cover = covers[i]!;
      // Light without cover stays: dividing by nothing says nothing.
      if (to === 'straight' && cover === 0) glowing += Number(colours.some(({ values }) => values[i] !== 0));
      else for (const { values } of colours) values[i] = to === 'straight' ? values[i]! / cover : values[i]! * cover;
    }
  }
  return glowing;
}

function exrParts(channels: readonly Channel[], sources: readonly ConvertSource[], recipe: Recipe, type: SampleType): ExrPicture[] {
  const parts = [...new Set(channels.map(({ part }) => part))];
  return parts.map((part) => {
    const own = channels.filter((channel) => channel.part === part);
    const { frame, attributes } = sources[own[0]!.file]!;
    const { width, height, pixelAspect } = frame.header;
    const whole: PixelWindow = [0, 0, width - 1, height - 1];
    return {
      ...(part === '' ? {} : { name: part }),
      dataWindow: frame.header.dataWindow ?? whole,
      displayWindow: frame.header.displayWindow ?? whole,
      pixelAspect: pixelAspect ?? 1,
      compression: recipe.compression,
      channels: own.map((channel) => exrChannel(channel, recipe, type)),
      ...(attributes ? { metadata: {}, kept: attributes } : notesForExr(frame.header)),
    };
  });
}

function exrChannel({ name, kind, plane, values }: Channel, { depth }: Recipe, type: SampleType): ExrChannelData {
  if (kind === 'id') return { name, type: 'uint', data: Uint32Array.from(values) };
  // Channels of one file may differ: each keeps its own where nothing else is asked.
  const own = depth === 'same' && (plane.type === 'half' || plane.type === 'float') ? plane.type : type;
  if (own === 'half') return { name, type: 'half', data: Uint16Array.from(values, floatToHalf) };
  return { name, type: 'float', data: Float32Array.from(values) };
}

/** The picture of the display window: what lies outside is cut, what is not there is nothing. */
function placeInDisplay(channels: readonly Channel[], { header }: DecodedFrame): { placed: Channel[]; width: number; height: number; cut: number } {
  const { dataWindow: data, displayWindow: display, width, height } = header;
  if (!data || !display || data.every((edge, i) => edge === display[i]))
    return { placed: [...channels], width: channels[0]!.plane.width, height: channels[0]!.plane.height, cut: 0 };
  const across = data[2] - data[0] + 1;
  const [left, right] = [Math.max(data[0], display[0]), Math.min(data[2], display[2])];
  const [top, bottom] = [Math.max(data[1], display[1]), Math.min(data[3], display[3])];
  const placed = channels.map((channel) => {
    const values = new Float64Array(width * height);
    for (let y = top; y <= bottom && right >= left; y++) {
      const from = (y - data[1]) * across + left - data[0];
      values.set(channel.values.subarray(from, from + right - left + 1), (y - display[1]) * width + left - display[0]);
    }
    return { ...channel, values };
  });
  const inside = Math.max(0, right - left + 1) * Math.max(0, bottom - top + 1);
  return { placed, width, height, cut: across * (data[3] - data[1] + 1) - inside };
}

function interleave(
  channels: readonly Channel[],
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
  const full = type === '8' ? 255 : 65535;
  const write = isHalf ? floatToHalf : type === 'float' ? (value: number) => value : (value: number) => Math.round(Math.min(1, Math.max(0, value)) * full);
  channels.forEach(({ values }, c) => {
    // What is no number has no code; it becomes nothing.
    for (let i = 0; i < values.length; i++) data[i * samples + c] = write(Number.isNaN(values[i]) && !isHalf && type !== 'float' ? 0 : values[i]!);
  });
  const notes = Object.fromEntries(Object.entries(header.metadata).map(([name, value]) => [name, String(value)]));
  return { width, height, samplesPerPixel: samples, data, isHalf, alphaKind, notes, pixelAspect: header.pixelAspect ?? 1 };
}

function encodePicture(picture: InterleavedPicture, { format, curve }: Recipe, type: SampleType, tools: EncoderTools): Uint8Array {
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
