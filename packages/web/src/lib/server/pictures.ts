import { framePath, MintError, rowsOfPass, workOutOrder } from '@mint-tally/core';
import { findRoot, layerOfPass, resolveInside } from '@mint-tally/engine';
import { findShot, readStateKey } from '@mint-tally/store';
import { NO_PICTURES, type PictureList } from '$lib/view/picture-list';
import { loadFileTable } from './file-tables';
import { needBrief, passIndex } from './frames';
import { services } from './services';

/** The files that a pass shows, as they were counted last; empty before the first count. @throws MintError */
export async function listPictures(shotId: number, pass: string): Promise<PictureList> {
  const order = workOutOrder((await needBrief(shotId)).brief);
  const { owner, pattern } = order.passes[passIndex(order, pass)]!;
  const table = await loadFileTable(shotId, await readStateKey(services().database, shotId));
  if (!table) return NO_PICTURES;
  const list = { frames: [] as number[], paths: [] as string[], sizes: [] as number[], modified: [] as number[] };
  const [from, to] = rowsOfPass(table, order.passes[owner]!.pass.name);
  for (let row = from; row < to; row++) {
    const [frame, path] = [table.frame[row]!, table.path[row]!];
    const last = list.frames.length - 1;
    // Where several files claim a frame, the one that is named as ordered is looked at, else the first.
    if (list.frames[last] === frame) {
      if (path !== framePath(pattern, frame)) continue;
      list.frames.pop();
      list.paths.pop();
      list.sizes.pop();
      list.modified.pop();
    }
    list.frames.push(frame);
    list.paths.push(path);
    list.sizes.push(table.size[row]!);
    list.modified.push(table.modified[row]!);
  }
  return list;
}

/** A part of a frame that is asked for. */
export interface PictureQuestion {
  readonly pass: string;
  readonly path: string;
  readonly size: number;
  readonly modified: number;
  readonly only: readonly string[] | null;
  readonly region: readonly [number, number, number, number] | null;
  readonly reduce: number;
}

/**
 * A frame's own pixels as a message for the screen.
 *
 * @param signal of the request: whoever has gone is not read for
 * @throws MintError when there is no such picture
 */
export async function readPicture(shotId: number, { pass, ...wish }: PictureQuestion, signal: AbortSignal): Promise<Uint8Array<ArrayBuffer>> {
  const { database, config, pictures } = services();
  const [saved, shot] = await Promise.all([needBrief(shotId), findShot(database, shotId)]);
  if (!shot) throw new MintError('not-found', 'There is no such shot.');
  const order = workOutOrder(saved.brief);
  const layer = layerOfPass(order, passIndex(order, pass)).channels;
  const folder = resolveInside(findRoot(config.roots, shot.root), shot.folder);
  return pictures.read({ folder, layer, ...wish }, signal);
}
