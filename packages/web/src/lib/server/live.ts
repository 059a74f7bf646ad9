import { countEngines, listNewestJobs, newestTallyIds } from '@mint-tally/store';
import { changeOf, type LiveEvent, type LiveState } from '$lib/jobs/live-state';
import { services } from './services';

const LOOK_EVERY = 250;

/** Read at most so often, whoever asks: pages come in by the dozen. In milliseconds. */
const FRESH_FOR = 100;
let lastRead: { readonly at: number; readonly look: Promise<Look> } | null = null;

/** What one look at the database finds. */
interface Look {
  readonly state: LiveState;
  /** When a job of each shot ended last. */
  readonly ends: ReadonlyMap<number, number>;
}

/** What is running now, for a page as it is first sent. */
export async function readLive(): Promise<LiveState> {
  if (lastRead && performance.now() - lastRead.at < FRESH_FOR) return (await lastRead.look).state;
  const mine = { at: performance.now(), look: lookNow() };
  lastRead = mine;
  // What could not be read is asked again by the next.
  mine.look.catch(() => lastRead === mine && (lastRead = null));
  return (await mine.look).state;
}

async function lookNow(): Promise<Look> {
  const { database } = services();
  const [jobs, engines] = await Promise.all([listNewestJobs(database), countEngines(database)]);
  const rendered = jobs.filter(({ request, state }) => request.kind === 'render' && state === 'running').map(({ shotId }) => shotId);
  const ends = new Map<number, number>();
  for (const { shotId, endedAt } of jobs) if (endedAt) ends.set(shotId, Math.max(endedAt.getTime(), ends.get(shotId) ?? 0));
  const state = {
    engines,
    counts: await newestTallyIds(database, rendered),
    lastEnd: Math.max(0, ...ends.values()),
    // Of what ended only that which has to be told is sent: what was done shows on the pages.
    jobs: jobs
      .filter(({ state }) => state !== 'done')
      .map(({ id, shotId, request, state, cancelRequested, error, progress, endedAt }) => ({
        id,
        shotId,
        kind: request.kind,
        purpose: request.kind === 'denoise' ? request.purpose : null,
        state,
        cancelRequested,
        error,
        progress: endedAt === null ? progress : null,
      })),
  };
  return { state, ends };
}

type Listener = (text: string) => void;

/** One look at the database serves all pages that listen; nobody looks while nobody listens. */
const listeners = new Set<Listener>();
let looking = false;
let latest: Look | null = null;

/** Calls the listener with events as JSON, at once with the present state. Gives what ends it. */
export function listen(listener: Listener): () => void {
  listeners.add(listener);
  if (latest) listener(write({ what: 'all', state: latest.state }));
  if (!looking) void look();
  return () => listeners.delete(listener);
}

const write = (event: LiveEvent) => JSON.stringify(event);

/** A page that went away in this moment must not keep the news from the others. */
function tell(listener: Listener, text: string): void {
  try {
    listener(text);
  } catch {
    listeners.delete(listener);
  }
}

async function look(): Promise<void> {
  looking = true;
  while (listeners.size > 0) {
    try {
      const before = latest;
      latest = await lookNow();
      const event = before ? changeOf(before.state, latest.state, endedSince(before.ends, latest.ends)) : ({ what: 'all', state: latest.state } as const);
      if (event) for (const listener of [...listeners]) tell(listener, write(event));
    } catch (thrown) {
      // The pages keep what they have; the next look may find the database back.
      console.error(`The database cannot be read: ${thrown instanceof Error ? thrown.message : String(thrown)}`);
      await new Promise((resolve) => setTimeout(resolve, 2000));
    }
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY));
  }
  latest = null;
  looking = false;
}

function endedSince(before: Look['ends'], now: Look['ends']): number[] {
  return [...now].flatMap(([shotId, at]) => (before.get(shotId) === at ? [] : [shotId]));
}
