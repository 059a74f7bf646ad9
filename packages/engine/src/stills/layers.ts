import { createHash } from 'node:crypto';
import type { Order } from '@mint-tally/core';

/** The part of a file that one pass shows: all of it, or its own channels. */
export interface Layer {
  /** Tells the layers of one file apart; empty when the pass has the file to itself. */
  readonly key: string;
  /** Null for whatever the file shows by itself. */
  readonly channels: readonly string[] | null;
}

/** By the place of each pass, what all passes that live in its files show of them; nothing where it lives in another's. */
export function layersOfFiles(order: Order): readonly (readonly Layer[])[] {
  return order.passes.map((_, owner) => order.passes.flatMap((pass, index) => (pass.owner === owner ? [layerOfPass(order, index)] : [])));
}

/** What a pass shows of its files. */
export function layerOfPass(order: Order, index: number): Layer {
  const { owner, pass } = order.passes[index]!;
  const alone = order.passes.filter((other) => other.owner === owner).length === 1;
  if (alone || !pass.channels) return { key: '', channels: null };
  return { key: createHash('sha256').update(pass.channels.join('\0')).digest('hex').slice(0, 12), channels: pass.channels };
}
