import { isRendered, MintError, shownRows, workOutOrder, type PixelValue } from '@mint-tally/core';
import { findRoot, layerOfPass, resolveInside, rootsToLookInto } from '@mint-tally/engine';
import { findShot, readPassContents, readStateKey } from '@mint-tally/store';
import type { SumPictured } from '$lib/assay/ask-sum';
import { NO_PICTURES, type PictureList } from '$lib/view/picture-list';
import { loadFileTable } from './file-tables';
import { needBrief, passIndex } from './frames';
import { services } from './services';

/** The files that a pass shows, as they were counted last; empty before the first count. @throws MintError */
export async function listPictures(shotId: number, pass: string): Promise<PictureList> {
  const order = workOutOrder((await needBrief(shotId)).brief);
  const { owner } = order.passes[passIndex(order, pass)]!;
  const { database } = services();
  const [table, contents] = await Promise.all([readStateKey(database, shotId).then((key) => loadFileTable(shotId, key)), readPassContents(database, shotId)]);
  if (!table) return NO_PICTURES;
  const rows = shownRows(table, order.passes[owner]!);
  const files = contents.find(({ pass: name }) => name === order.passes[owner]!.pass.name);
  const contentOf = new Map(files?.frames.map((frame, place) => [frame, files.contents[place]!]));
  return {
    frames: rows.map((row) => table.frame[row]!),
    paths: rows.map((row) => table.path[row]!),
    sizes: rows.map((row) => table.size[row]!),
    modified: rows.map((row) => table.modified[row]!),
    contents: rows.map((row) => contentOf.get(table.frame[row]!) ?? ''),
  };
}

/** What every channel of a pass's files holds at a pixel; or why nobody knows. */
export interface ProbedPass {
  readonly pass: string;
  readonly values: readonly PixelValue[];
  readonly why: string;
}

/**
 * The values of a pixel in all passes of a frame, each file read once: a file that several passes live in is told
 * under the first.
 */
export async function probePixel(shotId: number, frame: number, x: number, y: number, signal: AbortSignal): Promise<ProbedPass[]> {
  const { database, config, pictures } = services();
  const [saved, shot, table] = await Promise.all([
    needBrief(shotId),
    findShot(database, shotId),
    readStateKey(database, shotId).then((key) => loadFileTable(shotId, key)),
  ]);
  if (!shot) throw new MintError('not-found', 'There is no such shot.');
  if (!table) return [];
  const folder = resolveInside(findRoot(config.roots, shot.root), shot.folder);
  const owners = workOutOrder(saved.brief).passes.filter(({ owner }, place) => owner === place);
  const asked = owners.map(async (ordered): Promise<ProbedPass[]> => {
    const { name } = ordered.pass;
    const row = shownRows(table, ordered).find((one) => table.frame[one] === frame);
    if (row === undefined) return [];
    try {
      const known = { folder, path: table.path[row]!, size: table.size[row]!, modified: table.modified[row]! };
      return [{ pass: name, values: await pictures.readPixel({ ...known, x, y }, signal), why: '' }];
    } catch (thrown) {
      if (!(thrown instanceof MintError)) throw thrown;
      return [{ pass: name, values: [], why: thrown.message }];
    }
  });
  return (await Promise.all(asked)).flat();
}

/**
 * Where the lights of a frame do not sum to its beauty, as a picture that is clear where they do.
 *
 * @throws MintError when the brief orders no lights, or one of the frame's files is not there or cannot be looked into
 */
export async function readSumPicture(shotId: number, frame: number, signal: AbortSignal): Promise<SumPictured> {
  const { database, config, pictures } = services();
  const [saved, shot, table] = await Promise.all([
    needBrief(shotId),
    findShot(database, shotId),
    readStateKey(database, shotId).then((key) => loadFileTable(shotId, key)),
  ]);
  if (!shot || !table) throw new MintError('not-found', 'The shot has not been counted.', { remedy: 'Count it first.' });
  const folder = resolveInside(findRoot(config.roots, shot.root), shot.folder);
  const order = workOutOrder(saved.brief);
  const filesOf = (role: 'beauty' | 'light') =>
    order.passes
      .filter(({ pass }) => pass.role === role && isRendered(pass))
      .map(({ pass, owner }) => {
        const row = shownRows(table, order.passes[owner]!).find((one) => table.frame[one] === frame);
        if (row === undefined) throw new MintError('not-found', `${pass.name} has no file for frame ${frame}.`);
        return { folder, path: table.path[row]!, size: table.size[row]!, modified: table.modified[row]!, channels: pass.channels ?? null };
      });
  const [[beauty], lights] = [filesOf('beauty'), filesOf('light')];
  if (!beauty || lights.length === 0) throw new MintError('not-found', 'The brief orders no lights that could sum to a beauty.');
  const { png, share } = await pictures.readSum({ ...beauty, lights }, signal);
  return { address: `data:image/png;base64,${Buffer.from(png).toString('base64')}`, share };
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
  /** Another folder inside the roots than the shot's own; both null for that. */
  readonly root: string | null;
  readonly folder: string | null;
}

/**
 * A frame's own pixels as a message for the screen.
 *
 * @param signal of the request: whoever has gone is not read for
 * @throws MintError when there is no such picture
 */
export async function readPicture(
  shotId: number,
  { pass, root, folder: elsewhere, ...wish }: PictureQuestion,
  signal: AbortSignal,
): Promise<Uint8Array<ArrayBuffer>> {
  const { database, config, pictures } = services();
  const [saved, shot] = await Promise.all([needBrief(shotId), findShot(database, shotId)]);
  if (!shot) throw new MintError('not-found', 'There is no such shot.');
  const order = workOutOrder(saved.brief);
  const layer = layerOfPass(order, passIndex(order, pass)).channels;
  const isElsewhere = root !== null && elsewhere !== null;
  const folder = isElsewhere
    ? resolveInside(findRoot(rootsToLookInto(config), root), elsewhere)
    : resolveInside(findRoot(config.roots, shot.root), shot.folder);
  return pictures.read({ folder, layer, elseAny: isElsewhere, ...wish }, signal);
}
