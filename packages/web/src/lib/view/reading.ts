import type { Order, SentPicture } from '@mint-tally/core';
import type { ReadAs } from './drawn';
import type { ViewSettings } from './view-settings.svelte';

/** How the alpha of a pass is read, and who says so. */
export interface AlphaRead {
  readonly straight: boolean;
  readonly said: string;
}

/** How the alpha of a pass is read: as chosen, else by the file's own word, the brief's, what its format is made for. */
export function alphaOf(order: Order, { alpha }: ViewSettings, pass: string, picture: SentPicture | null): AlphaRead {
  const ordered = order.passes.find((one) => one.pass.name === pass)?.pass.alpha;
  const format = picture?.info.format ?? '';
  const usual = format === 'png' || format === 'tga' ? 'straight' : 'premultiplied';
  const own = picture?.info.alphaKind ?? null;
  const briefs = ordered === 'straight' || ordered === 'premultiplied' ? ordered : null;
  const kind = own ?? briefs ?? usual;
  const said = own ? `${own}, says the file` : briefs ? `${briefs}, says the brief` : `${usual}, as ${format || 'such'} files usually are`;
  return { straight: (alpha === 'as said' ? kind : alpha) === 'straight', said };
}

/** How the values of a pass are read: as chosen, else as its role and its channels suggest. */
export function readAs(order: Order, { readAs: chosen }: ViewSettings, pass: string, picture: SentPicture): ReadAs {
  if (chosen) return chosen;
  const { type, channels } = picture.info;
  const role = order.passes.find((candidate) => candidate.pass.name === pass)?.pass.role;
  if (type === 'uint' || role === 'id') return 'things';
  if (role === 'normal' || role === 'motion') return 'signs';
  if (role === 'depth') return 'range';
  const name = channels[0]!.slice(channels[0]!.lastIndexOf('.') + 1).toUpperCase();
  if (channels.length >= 3) return name === 'X' ? 'signs' : 'colour';
  if (channels.length === 2 && name !== 'Y') return 'signs';
  return name === 'Z' || name === 'DEPTH' ? 'range' : 'colour';
}
