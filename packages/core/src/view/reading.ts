import type { AlphaKind, PassRole } from '../brief/index.ts';
import { isAlphaName } from '../formats/index.ts';
import type { SentPicture } from './picture-message.ts';

/** How the values of a picture are read: as light, as a range of grey, as signed numbers around grey, as numbers of things. */
export const readings = ['colour', 'range', 'signs', 'things'] as const;
export type Reading = (typeof readings)[number];

/** Whether the last channel is an alpha. */
export function hasAlpha({ info }: Pick<SentPicture, 'info'>): boolean {
  return (info.channels.length === 2 || info.channels.length === 4) && isAlphaName(info.channels.at(-1)!);
}

/** How the values of a pass are read where nobody chose: as its role and its channels suggest. */
export function usualReading(role: PassRole | undefined, { type, channels }: Pick<SentPicture['info'], 'type' | 'channels'>): Reading {
  if (type === 'uint' || role === 'id') return 'things';
  if (role === 'normal' || role === 'motion') return 'signs';
  if (role === 'depth') return 'range';
  const name = channels[0]!.slice(channels[0]!.lastIndexOf('.') + 1).toUpperCase();
  if (channels.length >= 3) return name === 'X' ? 'signs' : 'colour';
  if (channels.length === 2 && name !== 'Y') return 'signs';
  return name === 'Z' || name === 'DEPTH' ? 'range' : 'colour';
}

/** A kind of alpha, and who says so. */
export interface AlphaSaid {
  readonly kind: 'straight' | 'premultiplied';
  readonly by: 'file' | 'brief' | 'format';
}

/** Which kind of alpha a pass has: by the file's own word, the brief's, or what its format is made for. */
export function alphaKindOf(ordered: AlphaKind | undefined, info: Pick<SentPicture['info'], 'format' | 'alphaKind'> | null): AlphaSaid {
  if (info?.alphaKind) return { kind: info.alphaKind, by: 'file' };
  if (ordered === 'straight' || ordered === 'premultiplied') return { kind: ordered, by: 'brief' };
  return { kind: info?.format === 'png' || info?.format === 'tga' ? 'straight' : 'premultiplied', by: 'format' };
}
