import type { WaiverSubject } from '@mint-tally/core';

/** What somebody is asked to waive, as it stood when they were asked: news that arrive meanwhile change nothing of it. */
export interface Waiving {
  readonly subjects: readonly WaiverSubject[];
  readonly title: string;
  readonly what: string;
}
