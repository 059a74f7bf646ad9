import { alphaKindOf, usualReading, type Order, type SentPicture } from '@mint-tally/core';
import type { ReadAs } from './drawn';
import type { ViewSettings } from './view-settings.svelte';

/** How the alpha of a pass is read, and who says so. */
export interface AlphaRead {
  readonly straight: boolean;
  readonly said: string;
}

/** How the alpha of a pass is read: as chosen, else by the file's own word, the brief's, what its format is made for. */
export function alphaOf(order: Order, { alpha }: ViewSettings, pass: string, picture: SentPicture | null): AlphaRead {
  const { kind, by } = alphaKindOf(order.passes.find((one) => one.pass.name === pass)?.pass.alpha, picture?.info ?? null);
  const said = by === 'format' ? `${kind}, as ${picture?.info.format || 'such'} files usually are` : `${kind}, says the ${by}`;
  return { straight: (alpha === 'as said' ? kind : alpha) === 'straight', said };
}

/** How the values of a pass are read: as chosen, else as its role and its channels suggest. */
export function readAs(order: Order, { readAs: chosen }: ViewSettings, pass: string, picture: SentPicture): ReadAs {
  return chosen ?? usualReading(order.passes.find((candidate) => candidate.pass.name === pass)?.pass.role, picture.info);
}
