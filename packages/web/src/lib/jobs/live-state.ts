import { jobErrorSchema, jobKinds, jobProgressSchema, jobStates } from '@mint-tally/core';
import { z } from 'zod';

const jobSchema = z.object({
  id: z.number(),
  shotId: z.number(),
  kind: z.enum(jobKinds),
  state: z.enum(jobStates),
  cancelRequested: z.boolean(),
  error: jobErrorSchema.nullable(),
  progress: jobProgressSchema.extend({ phaseSeconds: z.number() }).nullable(),
});
export type LiveJob = z.output<typeof jobSchema>;

/** What the server tells the pages while they are open: of each kind and shot what runs, what waits and what failed or was stopped last, when any job ended last, and the newest count of each shot that is being rendered. */
export const liveStateSchema = z.object({
  engines: z.number(),
  jobs: z.array(jobSchema),
  /** Milliseconds since 1970. */
  lastEnd: z.number(),
  counts: z.array(z.object({ shotId: z.number(), tallyId: z.number() })),
});
export type LiveState = z.output<typeof liveStateSchema>;

/** Whether a job waits or runs. */
export function isActive(job: LiveJob): boolean {
  return job.state === 'queued' || job.state === 'running';
}
