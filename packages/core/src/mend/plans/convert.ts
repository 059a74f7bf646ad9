import type { Order } from '../../brief/index.ts';
import { framePath, type NamePattern } from '../../naming/index.ts';
import type { FrameSet } from '../../ranges/index.ts';
import type { Assignment, ListedFile } from '../../tally/index.ts';
import type { Conversion, Recipe } from '../recipes.ts';
import type { MendConflict, MendPlan, MendStep } from '../steps.ts';
import { isAmong } from './wanted.ts';

const EXTENSIONS = { exr: 'exr', png: 'png', tiff: 'tif', jpeg: 'jpg', tga: 'tga', dpx: 'dpx' } as const;
/** What stands between a name and its number. */
const SEPARATORS = /[._-]*$/;

interface PassFiles {
  readonly index: number;
  readonly name: string;
  readonly isBeauty: boolean;
  readonly pattern: NamePattern;
  readonly files: ReadonlyMap<number, ListedFile>;
}

/**
 * Plans what is made of frames. In place, the originals make room and are set aside; into a folder of its own, they stay. Layers
 * of one file each get a file, their name before the number; files of all passes become one, their names before the channels'.
 *
 * @param frames which of them; all where none is named
 * @param channelsOf the channels of a pass's files
 */
export function planConvert(
  order: Order,
  { claims }: Assignment,
  wanted: { readonly frames: FrameSet; readonly passes: readonly string[] },
  conversion: Conversion,
  channelsOf: (owner: number) => readonly string[],
): MendPlan {
  const conflicts: MendConflict[] = [];
  const passes = order.passes.flatMap(({ owner, pass, pattern }, index): PassFiles[] => {
    if (owner !== index || !isAmong(wanted.passes, order, index)) return [];
    const files = new Map<number, ListedFile>();
    for (const [frame, list] of claims[index]!) {
      if (!wanted.frames.isEmpty && !wanted.frames.has(frame)) continue;
      if (list.length > 1)
        conflicts.push({ files: list.map(({ file }) => file.path), message: `${list.length} files stand for frame ${frame} of ${pass.name}.` });
      else files.set(frame, list[0]!.file);
    }
    return files.size === 0 ? [] : [{ index, name: pass.name, isBeauty: pass.role === 'beauty', pattern, files }];
  });
  const { layers } = conversion;
  const isKept = (name: string) => conversion.channels.length === 0 || conversion.channels.includes(name);
  const kept = ({ index }: PassFiles) => channelsOf(index).filter(isKept);
  for (const pass of passes)
    if (conversion.channels.length > 0 && kept(pass).length === 0)
      conflicts.push({
        files: [],
        message: `${pass.name} has none of the channels ${conversion.channels.join(', ')}: it has ${channelsOf(pass.index).join(', ')}.`,
      });
  if (conflicts.length > 0) return { steps: [], conflicts };
  if (layers !== 'same' && layers !== 'split') return { steps: gather(order, passes, conversion, (owner) => channelsOf(owner).filter(isKept)), conflicts };
  const steps = passes.flatMap((pass) =>
    layers === 'split' ? split(pass, conversion, kept(pass)) : inPlace(pass, conversion, conversion.channels.length === 0 ? [] : kept(pass)),
  );
  return { steps, conflicts };
}

/** The recipe of a conversion, with the files and channels that it takes. */
function recipeOf(
  { format, depth, compression, alpha, curve, quality }: Conversion,
  more: readonly string[] = [],
  channels: Recipe['channels'] = [],
  views: readonly string[] = [],
): Recipe {
  return { format, depth, compression, alpha, curve, quality, more: [...more], channels, views: [...views] };
}

function withFormat(pattern: NamePattern, { format, into }: Conversion, layer = ''): NamePattern {
  const { prefix, suffix, directory } = pattern;
  const separator = SEPARATORS.exec(prefix)![0];
  return {
    ...pattern,
    directory: [into, directory].filter((part) => part !== '').join('/'),
    prefix: layer === '' ? prefix : `${prefix.slice(0, prefix.length - separator.length)}_${layer}${separator || '.'}`,
    suffix: `${suffix.replace(/\.[^.]*$/, '')}.${EXTENSIONS[format]}`,
  };
}

const seenOf = ({ size, modified }: ListedFile) => ({ size, modified });

function inPlace({ pattern, files }: PassFiles, conversion: Conversion, channels: readonly string[]): MendStep[] {
  const target = withFormat(pattern, conversion);
  return [...files].flatMap(([frame, file]): MendStep[] => {
    const made: MendStep = {
      action: 'write',
      from: file.path,
      to: framePath(target, frame),
      reason: `frame ${frame} is made anew`,
      seen: seenOf(file),
      recipe: recipeOf(
        conversion,
        [],
        channels.map((name) => ({ file: 0, from: name, to: name, part: '' })),
      ),
    };
    if (conversion.into !== '') return [made];
    return [{ action: 'set-aside', from: file.path, to: file.path, reason: `frame ${frame} makes room for what is made of it`, seen: seenOf(file) }, made];
  });
}

const layerOf = (name: string) => name.slice(0, Math.max(0, name.lastIndexOf('.')));
/** A layer as it may stand in a file's name. */
const inName = (layer: string) => layer.replace(/[^A-Za-z0-9-]+/g, '_');

function split({ pattern, files }: PassFiles, conversion: Conversion, channels: readonly string[]): MendStep[] {
  const layers = [...new Set(channels.map(layerOf))];
  return [...files].flatMap(([frame, file]) =>
    layers.map((layer): MendStep => {
      const own = channels.filter((name) => layerOf(name) === layer).map((from) => ({ file: 0, from, to: from.slice(from.lastIndexOf('.') + 1), part: '' }));
      // Without a folder of their own even the plain channels get a name of their own: the file stays.
      const called = layer === '' && conversion.into === '' ? 'plain' : inName(layer);
      return {
        ...{ action: 'write', from: file.path, to: framePath(withFormat(pattern, conversion, called), frame), seen: seenOf(file) },
        reason: `${layer === '' ? 'the plain channels' : layer} of frame ${frame}`,
        recipe: recipeOf(conversion, [], own),
      };
    }),
  );
}

/** A channel's name among those of other passes; a view stands before the last word (OpenEXR, multi-view: layer.view.channel). */
function nameIn(pass: string, channel: string, { layers }: Conversion): string {
  if (layers !== 'gather-views') return `${pass}.${channel}`;
  const layer = layerOf(channel);
  return [...(layer === '' ? [] : [layer]), inName(pass), channel.slice(channel.lastIndexOf('.') + 1)].join('.');
}

function gather(order: Order, passes: readonly PassFiles[], conversion: Conversion, channelsOf: (owner: number) => readonly string[]): MendStep[] {
  const inParts = conversion.layers === 'gather-parts';
  const main = passes.find(({ isBeauty }) => isBeauty) ?? passes[0];
  if (!main) return [];
  const frames = [...new Set(passes.flatMap(({ files }) => [...files.keys()]))].sort((a, b) => a - b);
  const pattern: NamePattern = { ...withFormat(main.pattern, conversion), directory: conversion.into, prefix: `${order.brief.shot}_layers.` };
  return frames.flatMap((frame): MendStep[] => {
    const own = passes.filter(({ files }) => files.has(frame));
    const ordered = [...own].sort((a, b) => Number(b === main) - Number(a === main));
    const files = ordered.map((pass) => pass.files.get(frame)!);
    const channels = ordered.flatMap((pass, file) =>
      channelsOf(pass.index).map((from) => ({
        file,
        from,
        to: inParts || pass === main ? from : nameIn(pass.name, from, conversion),
        part: inParts ? pass.name : '',
      })),
    );
    return [
      {
        ...{ action: 'write', from: files[0]!.path, to: framePath(pattern, frame), seen: seenOf(files[0]!) },
        reason: `frame ${frame} of ${ordered.map(({ name }) => name).join(', ')}`,
        recipe: recipeOf(
          { ...conversion, format: 'exr' },
          files.slice(1).map(({ path }) => path),
          channels,
          conversion.layers === 'gather-views' ? ordered.map(({ name }) => inName(name)) : [],
        ),
      },
    ];
  });
}
