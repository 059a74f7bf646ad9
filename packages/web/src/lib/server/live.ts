import { countEngines, listNewestJobs, newestTallyIds } from '@mint-tally/store';
import type { LiveState } from '$lib/jobs/live-state';
import { services } from './services';

const LOOK_EVERY = 250;

/** Read at most so often, whoever asks: pages come in by the dozen. In milliseconds. */
const FRESH_FOR = 100;
let lastRead: { readonly at: number; readonly state: Promise<LiveState> } | null = null;

/** What is running now, for a page as it is first sent. */
export function readLive(): Promise<LiveState> {
  if (lastRead && performance.now() - lastRead.at < FRESH_FOR) return lastRead.state;
  const mine = { at: performance.now(), state: readNow() };
  lastRead = mine;
  // What could not be read is asked again by the next.
  mine.state.catch(() => lastRead === mine && (lastRead = null));
  return mine.state;
}

async function readNow(): Promise<LiveState> {
  const { database } = services();
  const [jobs, engines] = await Promise.all([listNewestJobs(database), countEngines(database)]);
  const rendered = jobs.filter(({ request, state }) => request.kind === 'render' && state === 'running').map(({ shotId }) => shotId);
  return {
    engines,
    counts: await newestTallyIds(database, rendered),
    lastEnd: jobs.reduce((last, { endedAt }) => Math.max(last, endedAt?.getTime() ?? 0), 0),
    // Of what ended only that which has to be told is sent: what was done shows on the pages.
    jobs: jobs
      .filter(({ state }) => state !== 'done')
      .map(({ id, shotId, request, state, cancelRequested, error, progress, endedAt }) => ({
        id,
        shotId,
        kind: request.kind,
        state,
        cancelRequested,
        error,
        progress: endedAt === null ? progress : null,
      })),
  };
}

type Listener = (text: string) => void;

/** One look at the database serves all pages that listen; nobody looks while nobody listens. */
const listeners = new Set<Listener>();
let looking = false;
let latest = '';

/** Calls the listener with every change as JSON, at once with the present state. Gives what ends it. */
export function listen(listener: Listener): () => void {
  listeners.add(listener);
  if (latest !== '') listener(latest);
  if (!looking) void look();
  return () => listeners.delete(listener);
}

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
      const text = JSON.stringify(await readNow());
      if (text !== latest) {
        latest = text;
        for (const listener of [...listeners]) tell(listener, text);
      }
    } catch (thrown) {
      // The pages keep what they have; the next look may find the database back.
      console.error(`The database cannot be read: ${thrown instanceof Error ? thrown.message : String(thrown)}`);
      await new Promise((resolve) => setTimeout(resolve, 2000));
    }
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY));
  }
  latest = '';
  looking = false;
}
