import { invalidateAll } from '$app/navigation';
import { navigating } from '$app/state';
import { getContext, setContext } from 'svelte';
import { isActive, liveStateSchema, type LiveJob, type LiveState } from './live-state';

const KEY = Symbol('live');

/** Reads the pages anew; never in the middle of a navigation, which that would break off. */
async function refresh(): Promise<void> {
  await navigating.complete?.catch(() => undefined);
  await invalidateAll();
}

/** What runs on the server, kept up to date by its events. */
export class Live {
  state: LiveState = $state({ engines: 0, jobs: [], lastEnd: 0, counts: [] });
  /** False while the server cannot be heard. */
  connected = $state(true);

  constructor(first: LiveState) {
    this.state = first;
  }

  /** Listens until the returned function is called. When a job ends, the pages read anew. */
  listen(): () => void {
    const source = new EventSource('/events');
    source.onopen = () => (this.connected = true);
    source.onerror = () => (this.connected = false);
    source.onmessage = (event) => {
      const parsed = liveStateSchema.safeParse(JSON.parse(event.data as string));
      if (!parsed.success) return;
      const before = this.state.lastEnd;
      const counted = new Map(this.state.counts.map(({ shotId, tallyId }) => [shotId, tallyId]));
      this.state = parsed.data;
      // A quick job may have come and gone between two looks.
      const ended = parsed.data.lastEnd !== before;
      // A batch counts while it goes on, without a job that ends each time.
      if (ended || parsed.data.counts.some(({ shotId, tallyId }) => counted.get(shotId) !== tallyId)) void refresh();
    };
    return () => source.close();
  }

  /** The job of a kind for a shot: the one that runs, else the one that waits, else the one that ended last if that was not done. */
  job(shotId: number, kind: LiveJob['kind']): LiveJob | null {
    return this.active(shotId, kind) ?? this.state.jobs.findLast((job) => job.shotId === shotId && job.kind === kind) ?? null;
  }

  /** The job of a kind that runs for a shot, else the first that waits. */
  active(shotId: number, kind: LiveJob['kind']): LiveJob | null {
    const own = this.state.jobs.filter((job) => job.shotId === shotId && job.kind === kind && isActive(job));
    return own.find(({ state }) => state === 'running') ?? own[0] ?? null;
  }

  /** Whether another job of the kind waits behind the one that runs. */
  waits(shotId: number, kind: LiveJob['kind']): boolean {
    return this.state.jobs.filter((job) => job.shotId === shotId && job.kind === kind && isActive(job)).length > 1;
  }
}

export function provideLive(first: LiveState): Live {
  return setContext(KEY, new Live(first));
}

export function useLive(): Live {
  return getContext<Live>(KEY);
}
