import {
  assignFiles,
  countStates,
  coversFinding,
  listingAfter,
  makeLanes,
  tally,
  workOutOrder,
  type Brief,
  type Lane,
  type ListingAfter,
  type MendStep,
} from '@mint-tally/core';
import { listFolder } from '@mint-tally/engine';
import { loadFileFacts } from '@mint-tally/store';
import type { LaneChange } from '$lib/mend/mend-view';
import { services } from './services';
import { loadShotState } from './shot-state';

/** Of a larger shot it would keep the page waiting. */
const MOST_FILES = 20_000;

/** How the frames of each pass would stand after a mend, of those that would stand otherwise; null where it takes too long to say. */
export async function lanesAfter(shotId: number, folder: string, brief: Brief, steps: readonly MendStep[]): Promise<LaneChange[] | null> {
  const { files } = await listFolder(folder, { stats: true });
  if (files.length > MOST_FILES || steps.length > MOST_FILES) return null;
  if (steps.length === 0) return [];
  const { database } = services();
  const [known, { findings: told, waivers }] = await Promise.all([loadFileFacts(database, shotId), loadShotState(database, shotId)]);
  const order = workOutOrder(brief);
  const stopgaps = new Set(told.flatMap((finding) => (finding.code === 'stopgap-frame' ? finding.files : [])));
  const lanesOf = (listing: ListingAfter) => {
    const { findings } = tally({
      ...{ order, listing: listing.files, level: 'full', stopgaps: listing.stopgaps },
      assignment: assignFiles(order, listing.files, Date.now()),
      // What comes from elsewhere was looked into before it was let into the plan.
      factsOf: ({ path }) => known.get(listing.wasAt.get(path) ?? '')?.facts ?? null,
    });
    return makeLanes(order, findings, (finding) => waivers.some(({ subject }) => coversFinding(subject, finding)));
  };
  const now = lanesOf({ files, wasAt: new Map(files.map(({ path }) => [path, path])), stopgaps });
  const after = listingAfter(files, steps);
  const moved = [...after.wasAt].flatMap(([path, was]) => (stopgaps.has(was) ? [path] : []));
  const then = lanesOf({ ...after, stopgaps: new Set([...after.stopgaps, ...moved]) });
  return now.flatMap((lane, i) => {
    const own = then[i]!;
    return own.states === lane.states ? [] : [{ pass: lane.pass, now: lane.states, then: own.states, says: `${sayLane(lane)}; then ${sayLane(own)}` }];
  });
}

/** What is wrong or odd with frames of a pass, with how many. */
function sayLane(lane: Lane): string {
  const { missing, broken, wrong, odd } = countStates([lane]);
  const parts = [
    [missing, 'missing'],
    [broken, 'broken'],
    [wrong, 'wrong'],
    [odd, 'odd'],
  ] as const;
  const said = parts.filter(([count]) => count > 0).map(([count, what]) => `${count} ${what}`);
  return said.length === 0 ? 'nothing wrong' : said.join(', ');
}
