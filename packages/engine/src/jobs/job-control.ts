import { MintError, type JobKind, type JobProgress } from '@mint-tally/core';
import { LEASE_SECONDS, renewLease, whileHeld, writeProgress, type Database, type Job, type Transaction } from '@mint-tally/store';

/** What a job brought about, written down in the transaction that ends it. Its result is kept with the job. */
export type Commit = (inside: Transaction) => Promise<unknown>;

/**
 * Why a job should stop before its end: a person asked, another engine has it or may have it, this
 * engine goes down, or it is to make room for a job that has to run alone, or that would wait for hours.
 */
export type StopReason = 'cancel' | 'lost' | 'shutdown' | 'yield';

/** Raised right before a change that must not be made any more, since the job may be somebody else's by now. */
export class LeaseLostError extends MintError {
  constructor() {
    super('lease-lost', 'The job went to another engine, because this one was silent too long.');
  }
}

const HEARTBEAT_EVERY = 1000;
const PROGRESS_EVERY = 250;
/** After so long without a renewal the lease is taken for lost, a little before it is, in milliseconds. */
const SILENT_TOO_LONG = (LEASE_SECONDS - 2) * 1000;

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
  /** When the last renewal that succeeded was sent. Of the two clocks one may stand still while the computer sleeps. */
  private renewedAt = { wall: Date.now(), steady: performance.now() };

  /** Kinds of jobs that this one makes room for. */
  private readonly waitingFor: readonly JobKind[];

  /** @param waitingFor kinds of jobs that it makes room for when one of them waits; it goes on afterwards */
  constructor(database: Database, job: Job, engineId: string, waitingFor: readonly JobKind[] = []) {
    this.database = database;
    this.job = job;
    this.engineId = engineId;
    this.waitingFor = waitingFor;
    this.heartbeat = setInterval(() => void this.renew(), HEARTBEAT_EVERY);
    this.progressTimer = setInterval(() => this.flush(), PROGRESS_EVERY);
  }

  /** Whether the work should stop; asked between files. */
  get stopReason(): StopReason | null {
    const { wall, steady } = this.renewedAt;
    // This process may have been asleep: the first thing that it asks afterwards is answered with what it missed.
    if (Math.max(Date.now() - wall, performance.now() - steady) > SILENT_TOO_LONG) this.reason = 'lost';
    return this.reason;
  }

  /** Called right before something is changed that two must not change. @throws LeaseLostError */
  stillHeld(): void {
    if (this.stopReason === 'lost') throw new LeaseLostError();
  }

  /** Writes something down in the middle of the work. @throws LeaseLostError */
  async record<Result>(work: (inside: Transaction) => Promise<Result>): Promise<Result> {
    this.stillHeld();
    const done = await whileHeld(this.database, this.job.id, this.engineId, async (inside) => ({ result: await work(inside) }));
    if (done) return done.result;
    this.reason = 'lost';
    throw new LeaseLostError();
  }

  /** The engine is being stopped. */
  shutDown(): void {
    this.giveWay('shutdown');
  }

  /** Another job has to run alone; this one goes on afterwards. */
  yield(): void {
    this.giveWay('yield');
  }

  private giveWay(reason: 'shutdown' | 'yield'): void {
    // It outranks a request to stop: the next engine will see to that.
    if (this.reason !== 'lost') this.reason = reason;
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
    const sent = { wall: Date.now(), steady: performance.now() };
    try {
      const state = await renewLease(this.database, this.job.id, this.engineId, this.waitingFor);
      if (state === 'lost') this.reason = 'lost';
      else this.renewedAt = sent;
      if (state === 'cancel' || state === 'yield') this.reason ??= state;
    } catch {
      // The database may be back for the next beat; when it stays away, the lease runs out and
      // somebody else will have the job.
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
