export { givesWay, jobErrorSchema, jobKinds, jobProgressSchema, jobRequestSchema, jobStates, RENDERS_EACH, standsFor } from './requests.ts';
export type { JobError, JobAsk, JobKind, JobProgress, JobRequest, JobState } from './requests.ts';
