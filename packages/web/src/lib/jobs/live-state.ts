import { z } from 'zod';

const jobSchema = z.object({
  id: z.number(),
  shotId: z.number(),
  kind: z.enum(['count', 'package', 'measure', 'render', 'merge']),
  state: z.enum(['queued', 'running', 'done', 'failed', 'cancelled']),
  cancelRequested: z.boolean(),
  error: z.object({ code: z.string(), message: z.string(), remedy: z.string() }).nullable(),
  progress: z
    .object({ phase: z.string(), done: z.number(), total: z.number(), bytesDone: z.number(), bytesTotal: z.number(), phaseSeconds: z.number() })
    .nullable(),
});
export type LiveJob = z.output<typeof jobSchema>;

/** What the server tells the pages while they are open: the newest job of each kind and shot, and the newest count of each shot that is being rendered. */
export const liveStateSchema = z.object({
  engines: z.number(),
  jobs: z.array(jobSchema),
  counts: z.array(z.object({ shotId: z.number(), tallyId: z.number() })),
});
export type LiveState = z.output<typeof liveStateSchema>;

/** Whether a job waits or runs. */
export function isActive(job: LiveJob): boolean {
  return job.state === 'queued' || job.state === 'running';
}
