import { denoiseRequestSchema, jobErrorSchema, jobKinds, jobProgressSchema, jobStates } from '@mint-tally/core';
import * as z from 'zod';

const jobSchema = z.object({
  id: z.number(),
  shotId: z.number(),
  kind: z.enum(jobKinds),
  /** Of a denoising: whether it tries strengths or goes along a range. */
  purpose: denoiseRequestSchema.shape.purpose.nullable(),
  state: z.enum(jobStates),
  cancelRequested: z.boolean(),
  error: jobErrorSchema.nullable(),
  progress: jobProgressSchema.extend({ phaseSeconds: z.number() }).nullable(),
});
export type LiveJob = z.output<typeof jobSchema>;

/** What runs on the server: of each kind and shot what runs, what waits and what failed or was stopped last, when any job ended last, and the newest count of each shot that is being rendered. */
export const liveStateSchema = z.object({
  engines: z.number(),
  jobs: z.array(jobSchema),
  /** Milliseconds since 1970. */
  lastEnd: z.number(),
  counts: z.array(z.object({ shotId: z.number(), tallyId: z.number() })),
});
export type LiveState = z.output<typeof liveStateSchema>;

/** What the server tells pages that listen: first all, then what has changed since it spoke last. */
export const liveEventSchema = z.discriminatedUnion('what', [
  z.object({ what: z.literal('all'), state: liveStateSchema }),
  z.object({
    what: z.literal('change'),
    engines: z.number(),
    lastEnd: z.number(),
    counts: liveStateSchema.shape.counts,
    /** Jobs that are new or say something else. */
    jobs: z.array(jobSchema),
    /** Jobs that there is nothing to say of any more. */
    gone: z.array(z.number()),
    /** Shots of which a job has ended or that have been counted: their pages are read anew. */
    news: z.array(z.number()),
  }),
]);
export type LiveEvent = z.output<typeof liveEventSchema>;

/** What has changed between two looks, or null when nothing has. @param ended shots of which a job has ended in between */
export function changeOf(before: LiveState, now: LiveState, ended: readonly number[]): LiveEvent | null {
  const said = new Map(before.jobs.map((job) => [job.id, JSON.stringify(job)]));
  const jobs = now.jobs.filter((job) => said.get(job.id) !== JSON.stringify(job));
  const there = new Set(now.jobs.map(({ id }) => id));
  const gone = before.jobs.flatMap(({ id }) => (there.has(id) ? [] : [id]));
  const news = [...new Set([...ended, ...newlyCounted(before, now)])];
  const { engines, lastEnd, counts } = now;
  const isSame = engines === before.engines && lastEnd === before.lastEnd && JSON.stringify(counts) === JSON.stringify(before.counts);
  return isSame && jobs.length + gone.length + news.length === 0 ? null : { what: 'change', engines, lastEnd, counts, jobs, gone, news };
}

/** Shots being rendered that have another count now. A batch counts while it goes on, without a job that ends each time. */
function newlyCounted(before: LiveState, now: LiveState): number[] {
  const counted = new Map(before.counts.map(({ shotId, tallyId }) => [shotId, tallyId]));
  return now.counts.flatMap(({ shotId, tallyId }) => (counted.get(shotId) === tallyId ? [] : [shotId]));
}

/** The state after an event, and the shots that it brings news of: `all` where it cannot be said of which. */
export function applyEvent(before: LiveState, event: LiveEvent): { state: LiveState; news: readonly number[] | 'all' } {
  if (event.what === 'all') {
    const { state } = event;
    // A quick job may have come and gone while nobody listened.
    return { state, news: state.lastEnd !== before.lastEnd ? 'all' : newlyCounted(before, state) };
  }
  const { engines, lastEnd, counts, jobs, gone, news } = event;
  const others = new Set([...gone, ...jobs.map(({ id }) => id)]);
  const kept = before.jobs.filter(({ id }) => !others.has(id));
  return { state: { engines, lastEnd, counts, jobs: [...kept, ...jobs].sort((a, b) => a.id - b.id) }, news };
}

/** Whether a job waits or runs. */
export function isActive(job: LiveJob): boolean {
  return job.state === 'queued' || job.state === 'running';
}
