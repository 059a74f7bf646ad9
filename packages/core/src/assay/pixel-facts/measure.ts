import { isAlphaName, type CodecTools, type DecodedFrame, type FrameHeader, type Plane } from '../../formats/index.ts';
import { measureAlpha } from './alpha-facts.ts';
import { measureChannels } from './channel-facts.ts';
import { findEmptyRegions } from './empty-regions.ts';
import type { ChannelFacts, LayerFacts, PixelFacts } from './schema.ts';
import { makeThumbnail, type Placement } from './thumbnail.ts';

/** Measures every channel of a decoded frame, each layer's alpha, and what was never written. */
export function measurePixels(frame: DecodedFrame, tools: Pick<CodecTools, 'crc32'>): PixelFacts {
  const { planes } = frame;
  const channels = measureChannels(planes, tools);
  const first = planes[0]!;
  const ofOneSize = planes.every((plane) => plane.width === first.width && plane.height === first.height);
  const mayBeEmpty = ofOneSize && channels.every((channel) => channel.zero > 0 && channel.zero < 1);
  return {
    channels,
    layers: [...groupByLayer(planes)].map(([name, own]) => measureLayer(name, own, channels, frame.header)),
    emptyRegions: mayBeEmpty ? findEmptyRegions(planes) : [],
  };
}

/** What stands before a channel's last dot. */
export function layerOf(channel: string): string {
  return channel.slice(0, Math.max(0, channel.lastIndexOf('.')));
}

function groupByLayer(planes: readonly Plane[]): Map<string, Plane[]> {
  const layers = new Map<string, Plane[]>();
  for (const plane of planes) {
    const name = layerOf(plane.channel);
    const list = layers.get(name);
    if (list) list.push(plane);
    else layers.set(name, [plane]);
  }
  return layers;
}

function measureLayer(name: string, planes: readonly Plane[], channels: readonly ChannelFacts[], header: FrameHeader): LayerFacts {
  const component = (plane: Plane) => plane.channel.slice(plane.channel.lastIndexOf('.') + 1);
  const alpha = planes.find((plane) => isAlphaName(plane.channel)) ?? null;
  const others = planes.filter((plane) => plane !== alpha);
  const colours = ['R', 'G', 'B'].flatMap((letter) => others.find((plane) => component(plane) === letter) ?? []);
  const shown = colours.length > 0 ? colours : others.length > 0 ? others : planes;
  const { width, height } = shown[0]!;
  const comparable = shown.filter((plane) => plane.width === width && plane.height === height);
  const measurable = alpha !== null && colours.length > 0 && colours.every((plane) => plane.width === alpha.width && plane.height === alpha.height);
  const picture = pictureOf(shown.map((plane) => channels.find((channel) => channel.name === plane.channel)!));
  return { name, picture, thumbnail: makeThumbnail(comparable, placementOf(header, width, height)), alpha: measurable ? measureAlpha(alpha, colours) : null };
}

/** A checksum of 32 bits alone would be the same for two of a few thousand frames now and then; with the means it is not. */
function pictureOf(colours: readonly ChannelFacts[]): string {
  return [...new Set(colours.map(({ hash }) => hash)), ...colours.map(({ mean }) => mean)].join(' ');
}

/** Where planes of the data window lie in the display window; null for planes of another size. */
function placementOf({ dataWindow, displayWindow }: FrameHeader, width: number, height: number): Placement | null {
  if (!dataWindow || !displayWindow || dataWindow[2] - dataWindow[0] + 1 !== width || dataWindow[3] - dataWindow[1] + 1 !== height) return null;
  const [left, top, right, bottom] = displayWindow;
  return { left: dataWindow[0] - left, top: dataWindow[1] - top, width: right - left + 1, height: bottom - top + 1 };
}
