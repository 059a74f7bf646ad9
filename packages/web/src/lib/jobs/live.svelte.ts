import { invalidate, invalidateAll } from '$app/navigation';
import { navigating, page } from '$app/state';
import { getContext, setContext } from 'svelte';
import { applyEvent, isActive, liveEventSchema, type LiveJob, type LiveState } from './live-state';

const KEY = Symbol('live');

/**
 * Reads the page anew when there are news of what it shows; never in the middle of a navigation, which that
 * would break off. News of other shots read nothing, but for what was fetched ahead of a click on them.
 */
async function refresh(news: readonly number[] | 'all'): Promise<void> {
  const underWay = navigating.complete;
  await underWay?.catch(() => undefined);
  const shown = page.params.shot;
  if (underWay !== null || news === 'all' || shown === undefined || news.includes(Number(shown))) await invalidateAll();
  else await invalidate(() => false);
}

/** Reads the page anew after something was changed from it by a request of its own; a navigation that is under way is waited for. */
export function renewPage(): Promise<void> {
  return refresh('all');
}

/** What runs on the server, kept up to date by its events. */
export class Live {
  state: LiveState = $state({ engines: 0, jobs: [], lastEnd: 0, counts: [] });
  /** False while the server cannot be heard. */
  connected = $state(true);

  constructor(first: LiveState) {
    this.state = first;
  }

  /** Listens until the returned function is called. When a job of the shot that is shown ends, or of any in the lists, the page is read anew. */
  listen(): () => void {
    const source = new EventSource('/events');
    source.onopen = () => (this.connected = true);
    source.onerror = () => (this.connected = false);
    source.onmessage = (event) => {
      const parsed = liveEventSchema.safeParse(JSON.parse(event.data as string));
      if (!parsed.success) return;
      const { state, news } = applyEvent(this.state, parsed.data);
      this.state = state;
      if (news.length > 0) void refresh(news);
    };
    return () => source.close();
  }

  /** The job of a kind for a shot: the one that runs, else the one that waits, else the one that ended last if that was not done. */
  job(shotId: number, kind: LiveJob['kind']): LiveJob | null {
    return this.active(shotId, kind) ?? this.state.jobs.findLast((job) => job.shotId === shotId && job.kind === kind) ?? null;
  }

  /** The job of a kind that runs for a shot, else the first that waits; of denoisings those of one purpose, where that is said. */
  active(shotId: number, kind: LiveJob['kind'], purpose: LiveJob['purpose'] = null): LiveJob | null {
    const own = this.allActive(shotId, kind).filter((job) => purpose === null || job.purpose === purpose);
    return own.find(({ state }) => state === 'running') ?? own[0] ?? null;
  }

  /** Whether another job of the kind waits behind the one that runs. */
  waits(shotId: number, kind: LiveJob['kind']): boolean {
    return this.allActive(shotId, kind).length > 1;
  }

  private allActive(shotId: number, kind: LiveJob['kind']): LiveJob[] {
    return this.state.jobs.filter((job) => job.shotId === shotId && job.kind === kind && isActive(job));
  }
}

export function provideLive(first: LiveState): Live {
  return setContext(KEY, new Live(first));
}

export function useLive(): Live {
  return getContext<Live>(KEY);
}
