import { encodeExrParts, isAlphaName, type EncoderTools, type InterleavedPicture } from '../formats/index.ts';
import type { Recipe } from '../mend/index.ts';
import { Channel, type ConvertSource } from './channel.ts';
import { chooseChannels, chooseUnnamed, isColour, layerOf, NotConvertedError, type ChosenChannel } from './channels.ts';
import { decodeCode, encodeLight, type NumberKind, type Numbers } from './numbers.ts';
import type { SampleType } from './sample-type.ts';
import { exrParts } from './to-exr.ts';
import { encodePicture, interleave, placeInDisplay, type PlacedChannel } from './to-interleaved.ts';

/** A channel as it would be if numbers had no end: what the file's own are held against. */
export interface WantedChannel {
  readonly name: string;
  readonly values: Numbers;
  readonly kind: NumberKind;
}

/** What is made: the file's bytes, or a picture that somebody else packs; and what it should be. */
export interface ConvertedFrame {
  readonly bytes: Uint8Array | null;
  /** Of a JPEG, which a library writes. */
  readonly jpeg: InterleavedPicture | null;
  /** Worked out where it is asked for: only what measures a loss does. */
  readonly wanted: () => readonly WantedChannel[];
  /** Channels that the new file has no place for. */
  readonly left: readonly string[];
  /** What of the files' shape it does not have, in words. */
  readonly shape: readonly string[];
  /** Pixels outside of the display window that the new file has no place for. */
  readonly cut: number;
  /** Pixels that have light without alpha, which straight alpha cannot say. */
  readonly glowing: number;
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
  const channels = taken.map((channel) => new Channel(channel));
  const type = targetType(channels, recipe);
  const wantsLight = type === 'half' || type === 'float';
  // Alpha is multiplied in light where there is light on either side, and in codes where there are codes on both.
  for (const channel of channels) if (wantsLight && channel.kind === 'code') toLight(channel, recipe);
  const glowing = turnAlpha(channels, sources, recipe);
  if (!wantsLight) for (const channel of channels) if (channel.kind === 'light') toCodes(channel, recipe);
  const first = sources[taken[0]!.file]!.frame;
  const wanted = (at: readonly PlacedChannel[]) => () =>
    at.map(({ name, part, values, kind }) => ({ name: part === '' ? name : `${part}.${name}`, values, kind }));
  if (isExr) {
    const bytes = encodeExrParts(exrParts(channels, sources, recipe, type), tools);
    return { bytes, jpeg: null, wanted: wanted(channels), left: [], shape: shapeOf(sources, recipe), cut: 0, glowing };
  }
  const { placed, width, height, cut } = placeInDisplay(channels, first);
  const picture = interleave(placed, width, height, type, first, alphaAfter(sources[taken[0]!.file]!, recipe));
  const told = { wanted: wanted(placed), left: left.map(({ name }) => name), shape: [], cut, glowing };
  if (recipe.format === 'jpeg') return { bytes: null, jpeg: picture, ...told };
  return { bytes: encodePicture(picture, recipe, type, tools), jpeg: null, ...told };
}

/** Parts that are gathered into parts stay what they are. */
function shapeOf(sources: readonly ConvertSource[], { channels }: Recipe): string[] {
  const inParts = channels.some(({ part }) => part !== '');
  return [...new Set(sources.flatMap(({ shape }) => shape))].filter((word) => !inParts || !word.includes('parts'));
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
  if (!isAlphaName(channel.name)) {
    const how = isColour(channel.name) ? curve : 'linear';
    const values = channel.touch();
    if (how !== 'linear') for (let i = 0; i < values.length; i++) values[i] = decodeCode(values[i]!, how);
  }
  channel.isTouched = true;
  channel.kind = 'light';
}

function toCodes(channel: Channel, { curve }: Recipe): void {
  if (isColour(channel.name) && curve !== 'linear') {
    const values = channel.touch();
    for (let i = 0; i < values.length; i++) values[i] = encodeLight(values[i]!, curve);
  }
  channel.isTouched = true;
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
    const colours = own.filter((channel) => channel !== alpha && isColour(channel.name)).map((channel) => channel.touch());
    const { values: covers } = alpha;
    for (let i = 0; i < covers.length; i++) {
      const cover = covers[i]!;
      // Light without cover stays: dividing by nothing says nothing.
      if (to === 'straight' && cover === 0) glowing += Number(colours.some((values) => values[i] !== 0));
      else for (const values of colours) values[i] = to === 'straight' ? values[i]! / cover : values[i]! * cover;
    }
  }
  return glowing;
}
