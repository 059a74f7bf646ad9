import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { framePath, inReadingOrder, MintError, workOutOrder, type FrameHeader, type Order, notesOf, shownRows } from '@mint-tally/core';
import { findRoot, layerOfPass, proxyPath, resolveInside, type Layer } from '@mint-tally/engine';
import { findFileFacts, findShot, newestBrief, readStateKey, type SavedBrief, type StoredFile } from '@mint-tally/store';
import type { FrameInfo } from '$lib/frame/frame-info';
import { loadFileTable, pathsFor } from './file-tables';
import { services } from './services';

export async function needBrief(shotId: number): Promise<SavedBrief> {
  const saved = await newestBrief(services().database, shotId);
  if (!saved) throw new MintError('not-found', 'There is no such shot.');
  return saved;
}

export function passIndex(order: Order, name: string): number {
  const index = order.passes.findIndex((candidate) => candidate.pass.name === name);
  if (index < 0) throw new MintError('not-found', `There is no pass called ${name}.`);
  return index;
}

/** What is known of a frame. @throws MintError */
export async function readFrameInfo(shotId: number, pass: string, frame: number): Promise<FrameInfo> {
  const order = workOutOrder((await needBrief(shotId)).brief);
  const { owner, pattern } = order.passes[passIndex(order, pass)]!;
  const ordered = framePath(pattern, frame);
  const files: FrameInfo['files'] = [];
  for (const name of await pathsFor(shotId, order.passes[owner]!.pass.name, frame, ordered)) {
    const stored = await findFileFacts(services().database, shotId, name);
    if (stored) files.push(describe(shotId, pass, stored));
  }
  return { ordered, files };
}

function describe(shotId: number, pass: string, stored: StoredFile): FrameInfo['files'][number] {
  const { facts, sha256 } = stored;
  const hasPicture = sha256 !== null && facts.problem === null && facts.notExamined === null && facts.header !== null;
  return {
    path: stored.path,
    size: stored.size,
    modified: stored.modified,
    problem: facts.problem?.message ?? null,
    notExamined: facts.notExamined,
    facts: facts.header ? headerFacts(facts.header) : [],
    still: hasPicture ? `/shots/${shotId}/still?${new URLSearchParams({ pass, path: stored.path, v: sha256 }).toString()}` : null,
  };
}

function headerFacts(header: FrameHeader): [string, string][] {
  const depths = [...new Set(header.channels.map((channel) => channel.depth))].map((depth) => (/^\d/.test(depth) ? `${depth} bit` : depth));
  const facts: [string, string][] = [
    ['Size', `${header.width} x ${header.height}`],
    ['Depth', depths.join(', ')],
    ['Channels', inReadingOrder(header.channels.map((channel) => channel.name)).join(' ')],
    ['Compression', header.compression],
  ];
  const notes = notesOf(header.metadata);
  for (const [title, kind] of [
    ['Machine', 'host'],
    ['Samples', 'samples'],
    ['Camera', 'camera'],
  ] as const) {
    const said = notes.get(kind);
    if (said !== undefined) facts.push([title, said]);
  }
  return facts;
}

/** The picture of the file that a pass shows for a frame. @throws MintError when there is none */
export async function readStillOfFrame(shotId: number, pass: string, frame: number): Promise<Uint8Array<ArrayBuffer>> {
  const order = workOutOrder((await needBrief(shotId)).brief);
  const shown = order.passes[order.passes[passIndex(order, pass)]!.owner]!;
  const table = await loadFileTable(shotId, await readStateKey(services().database, shotId));
  const row = table && shownRows(table, shown).find((one) => table.frame[one] === frame);
  if (row === null || row === undefined) throw new MintError('not-found', `${pass} has no file for frame ${frame}.`);
  return readStillNow(shotId, pass, table!.path[row]!);
}

/** The picture of a file as it is known now. @throws MintError when there is none */
export async function readStillNow(shotId: number, pass: string, name: string): Promise<Uint8Array<ArrayBuffer>> {
  const stored = await findFileFacts(services().database, shotId, name);
  if (!stored?.sha256) throw new MintError('not-found', `There is no picture of ${name}.`, { subject: name });
  return readStill(shotId, pass, name, stored.sha256);
}

/**
 * The picture of a file for the screen, as WebP. Made now if nobody has kept it.
 *
 * @param sha256 the content that the page expects
 * @throws MintError when there is no such picture
 */
export async function readStill(shotId: number, pass: string, name: string, sha256: string): Promise<Uint8Array<ArrayBuffer>> {
  const { database, config, pool } = services();
  const [saved, stored, shot] = await Promise.all([needBrief(shotId), findFileFacts(database, shotId, name), findShot(database, shotId)]);
  if (!stored || !shot || stored.sha256 !== sha256) throw new MintError('not-found', `${name} has changed since.`, { subject: name });
  const order = workOutOrder(saved.brief);
  const layer: Layer = layerOfPass(order, passIndex(order, pass));
  const proxies = path.join(config.dataFolder, 'proxies');
  const file = proxyPath(proxies, sha256, layer);
  if (!existsSync(file)) {
    const folder = resolveInside(findRoot(config.roots, shot.root), shot.folder);
    await pool.inspectAll([{ folder, path: name, level: 'full', proxies: { folder: proxies, layers: [layer] } }], () => undefined);
  }
  if (!existsSync(file))
    throw new MintError('not-found', `${name} has no picture, or has changed since it was counted.`, { subject: name, remedy: 'Count again.' });
  return new Uint8Array(await readFile(file));
}
