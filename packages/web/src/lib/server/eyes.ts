import { workOutEyes, workOutOrder, type PassEyes, type Sight } from '@mint-tally/core';
import { addSights, listSights, readPassContents } from '@mint-tally/store';
import { needBrief, passIndex } from './frames';
import { actor, services } from './services';

/**
 * Notes what somebody has seen of a pass. What was seen of a file that has been replaced meanwhile is not noted: it
 * says nothing about the frames as they are.
 *
 * @returns how many were noted, and what has been seen by now
 * @throws MintError when there is no such pass
 */
export async function noteSights(
  shotId: number,
  seen: { pass: string; person: string; sights: readonly Sight[] },
): Promise<{ noted: number; eyes: PassEyes[] }> {
  const { database } = services();
  const order = workOutOrder((await needBrief(shotId)).brief);
  const { owner } = order.passes[passIndex(order, seen.pass)]!;
  const contents = await readPassContents(database, shotId);
  const files = contents.find(({ pass }) => pass === order.passes[owner]!.pass.name);
  const contentOf = new Map(files?.frames.map((frame, place) => [frame, files.contents[place]!]));
  const standing = seen.sights.filter(({ frame, content }) => contentOf.get(frame) === content);
  await database.transaction((inside) => addSights(inside, shotId, seen.pass, standing, seen.person || actor));
  return { noted: standing.length, eyes: workOutEyes(order, contents, await listSights(database, shotId)) };
}
