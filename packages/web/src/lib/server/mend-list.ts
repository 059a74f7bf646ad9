import { contentsFor, followListed, formatFrameRange, FrameSet, MintError, parseFrameRange, refuseDenoised, workOutOrder } from '@mint-tally/core';
import { addToMendList, listMendList, readPassContents, type MendListEntry } from '@mint-tally/store';
import * as z from 'zod';
import type { ListView } from '$lib/mend/mend-view';
import { needBrief } from './frames';
import { actor, services } from './services';
import { loadShotState } from './shot-state';

export const listRequestSchema = z.object({
  /** Passes with their frames, in range notation; an empty pass stands for all. */
  entries: z
    .array(z.object({ pass: z.string().max(200), frames: z.string().min(1).max(100_000) }))
    .min(1)
    .max(1000),
  reason: z.string().trim().min(1, 'Say why, so that whoever renders it knows.').max(1000),
  origin: z.string().regex(/^[a-z-]{1,100}$/),
});

/** Puts frames on the shot's list. @throws MintError for passes and frames that are not ordered */
export async function addToList(shotId: number, { entries, reason, origin }: z.output<typeof listRequestSchema>): Promise<void> {
  const { database } = services();
  const [{ brief }, contents] = await Promise.all([needBrief(shotId), readPassContents(database, shotId)]);
  const order = workOutOrder(brief);
  const read = entries.map(({ pass, frames }) => {
    const named = order.passes.find((one) => one.pass.name === pass);
    if (named) refuseDenoised(named.pass);
    const ordered = pass === '' ? order.frames : named?.frames;
    if (!ordered) throw new MintError('not-found', `No pass is called ${pass}.`, { remedy: 'Choose one that the brief orders.' });
    const wanted = parseFrameRange(frames).intersection(ordered);
    if (wanted.isEmpty)
      throw new MintError('not-ordered', `None of ${frames} is ordered${pass === '' ? '' : ` of ${pass}`}.`, { remedy: 'Choose ordered frames.' });
    return { pass, frames: wanted };
  });
  await database.transaction(async (inside) => {
    for (const { pass, frames } of read)
      await addToMendList(inside, shotId, { pass, frames, reason, origin, contents: contentsFor(order, pass, frames, contents) }, actor);
  });
}

/** What stands on the list of a shot, with how far each has come. */
export async function readList(shotId: number): Promise<ListView[]> {
  const { database } = services();
  const [entries, contents, { brief, lanes }] = await Promise.all([
    listMendList(database, shotId),
    readPassContents(database, shotId),
    loadShotState(database, shotId),
  ]);
  const order = workOutOrder(brief);
  return entries.map((entry) => viewOf(entry, followListed(order, entry, lanes, contents)));
}

function viewOf({ id, pass, frames, reason, at, actor: by }: MendListEntry, followed: ReturnType<typeof followListed>): ListView {
  const left = followed.filter((one) => !one.left.isEmpty);
  const odd = followed.reduce((all, one) => all.union(one.odd), FrameSet.empty);
  return {
    ...{ id, pass, reason, actor: by },
    frames: formatFrameRange(frames),
    at: at.toISOString(),
    left: left.map((one) => ({ pass: one.pass, frames: formatFrameRange(one.left) })),
    leftCount: left.reduce((sum, one) => sum + one.left.size, 0),
    backCount: followed.reduce((sum, one) => sum + one.back.size, 0),
    odd: formatFrameRange(odd),
  };
}

/** What is left to render of the list, by passes with the same frames. */
export async function leftOnList(shotId: number): Promise<{ passes: string[]; frames: string }[]> {
  const byPass = new Map<string, FrameSet>();
  for (const { left } of await readList(shotId))
    for (const { pass, frames } of left) byPass.set(pass, (byPass.get(pass) ?? FrameSet.empty).union(parseFrameRange(frames)));
  const groups = new Map<string, string[]>();
  for (const [pass, frames] of byPass) groups.set(formatFrameRange(frames), [...(groups.get(formatFrameRange(frames)) ?? []), pass]);
  return [...groups].map(([frames, passes]) => ({ passes, frames }));
}
