export { jobErrorSchema, jobKinds, jobProgressSchema, jobRequestSchema, jobStates, standsFor } from './requests.ts';
export type { JobError, JobKind, JobProgress, JobRequest, JobState } from './requests.ts';
