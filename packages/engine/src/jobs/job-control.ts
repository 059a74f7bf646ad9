import { renewLease, writeProgress, type Database, type Job, type JobProgress } from '@mint-tally/store';

/** Why a job should stop before its end: a person asked, another engine has it, or this one goes down. */
export type StopReason = 'cancel' | 'lost' | 'shutdown';

const HEARTBEAT_EVERY = 1000;
const PROGRESS_EVERY = 250;

/**
 * Holds a job's lease while its work goes on: renews it, learns of a request to stop, and writes
 * progress, not more often than anybody can see.
 */
export class JobControl {
  readonly job: Job;
  private readonly database: Database;
  private readonly engineId: string;
  private readonly heartbeat: NodeJS.Timeout;
  private readonly progressTimer: NodeJS.Timeout;
  private reason: StopReason | null = null;
  private latest: JobProgress | null = null;
  private pending: Promise<unknown> = Promise.resolve();
  private renewals = 0;

  constructor(database: Database, job: Job, engineId: string) {
    this.database = database;
    this.job = job;
    this.engineId = engineId;
    this.heartbeat = setInterval(() => void this.renew(), HEARTBEAT_EVERY);
    this.progressTimer = setInterval(() => this.flush(), PROGRESS_EVERY);
  }

  /** Whether the work should stop; asked between files. */
  get stopReason(): StopReason | null {
    return this.reason;
  }

  /** The engine is being stopped. */
  shutDown(): void {
    // It outranks a request to stop: the next engine will see to that.
    if (this.reason !== 'lost') this.reason = 'shutdown';
  }

  /** Notes how far the work has come. */
  report(progress: JobProgress): void {
    this.latest = progress;
  }

  /** Ends the heartbeat; the last progress is written first. */
  async close(): Promise<void> {
    clearInterval(this.heartbeat);
    clearInterval(this.progressTimer);
    this.flush();
    await this.pending;
  }

  private async renew(): Promise<void> {
    try {
      const state = await renewLease(this.database, this.job.id, this.engineId);
      this.renewals = 0;
      if (state !== 'held') this.reason ??= state;
    } catch {
      // The database may be back for the next beat; when it stays away, the lease runs out and
      // somebody else will have the job.
      if (++this.renewals > 15) this.reason ??= 'lost';
    }
  }

  private flush(): void {
    const progress = this.latest;
    if (!progress) return;
    this.latest = null;
    // Progress is for people to look at: one lost row is no reason to stop the work.
    this.pending = this.pending.then(() => writeProgress(this.database, this.job.id, progress)).catch(() => undefined);
  }
}
