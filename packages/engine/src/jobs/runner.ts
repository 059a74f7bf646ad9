import { randomUUID } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import { describeError, givesWay, jobKinds, MintError, type JobError, type JobKind } from '@mint-tally/core';
import {
  Bell,
  finishJob,
  isDatabaseAway,
  leaseJob,
  listOrphanBatches,
  listShotsWithoutTable,
  noteAbsence,
  notePresence,
  releaseFallenEngines,
  releaseJob,
  requestJob,
  type Job,
} from '@mint-tally/store';
import { JobControl, LeaseLostError, type Commit } from './job-control.ts';
import type { JobTools } from './job-tools.ts';
import { perform } from './perform.ts';
import { isAlive, THIS_HOST } from './this-host.ts';

/**
 * Jobs at a time. Batches wait nearly all of it, and so do test frames, which must not hold up anybody's count; writing a
 * package waits on disks, so a count may go on beside it. An assay and a denoising take long, and hold up no count either; nor does a movie or a contact sheet.
 * A range that is denoised takes longest of all, and lets go for whatever else its lane is asked for.
 */
const LANES = { batches: 8, tests: 4, pixels: 1, movies: 1, others: 2 };
const LANE_OF: Partial<Record<JobKind, keyof typeof LANES>> = {
  render: 'batches',
  measure: 'tests',
  assay: 'pixels',
  denoise: 'pixels',
  movie: 'movies',
  sheet: 'movies',
};
const laneOf = (kind: JobKind) => LANE_OF[kind] ?? 'others';
/** A job that an engine fell with is no longer alone once it has lived so long, in milliseconds. */
const TRUSTED_AFTER = 60_000;
const GIVE_BACK_EVERY = 250;
const GIVE_BACK_TRIES = 240;
/** A job at which the database breaks off so often is what breaks it. */
const MOST_BREAKS = 5;
const PRESENCE_EVERY = 5000;

/** A job in work. */
interface Running {
  readonly control: JobControl;
  readonly began: number;
}

/** Takes jobs from the database and does them, until it is stopped. */
export class JobRunner {
  readonly id = randomUUID();
  private readonly tools: JobTools;
  private readonly report: (line: string) => void;
  private readonly bell: Bell;
  private readonly running = new Map<number, Running>();
  private readonly ends = new Set<Promise<void>>();
  /** How often the database broke off in the middle of a job. */
  private readonly breaks = new Map<number, number>();
  /** Jobs that have ended here. */
  private ended = 0;
  private stopping = false;
  private looking: Promise<void> = Promise.resolve();
  private presence: NodeJS.Timeout | null = null;

  /** @param report receives a line for each thing that an operator should read */
  constructor(tools: JobTools, report: (line: string) => void) {
    this.tools = tools;
    this.report = report;
    this.bell = new Bell(tools.database);
  }

  async start(): Promise<void> {
    await releaseFallenEngines(this.tools.database, THIS_HOST, isAlive);
    await this.reviveBatches();
    await this.listFilesOfEarlierCounts();
    await this.notePresence();
    this.presence = setInterval(() => void this.notePresence().catch((thrown: unknown) => this.report(describeError(thrown))), PRESENCE_EVERY);
    this.looking = this.look();
  }

  /** Stops between two files; unfinished jobs go back to wait for the next engine. */
  async stop(): Promise<void> {
    this.stopping = true;
    if (this.presence) clearInterval(this.presence);
    for (const { control } of this.running.values()) control.shutDown();
    this.bell.close();
    await this.looking;
    await Promise.all(this.ends);
    await noteAbsence(this.tools.database, this.id);
  }

  /** Batches that go on although no job is there to bring them about get one. */
  private async reviveBatches(): Promise<void> {
    for (const { id, shotId, actor } of await listOrphanBatches(this.tools.database)) {
      await requestJob(this.tools.database, shotId, { kind: 'render', batch: id }, actor);
    }
  }

  /** Counts of earlier versions did not list their files for the pages: counted again, which opens none of them, they are. */
  private async listFilesOfEarlierCounts(): Promise<void> {
    for (const shotId of await listShotsWithoutTable(this.tools.database)) await requestJob(this.tools.database, shotId, { kind: 'count' }, 'engine');
  }

  private notePresence(): Promise<void> {
    return notePresence(this.tools.database, { id: this.id, host: THIS_HOST, processId: process.pid });
  }

  /** The one that looks for jobs in this process: it takes what there is room for, and waits for the bell or for room. */
  private async look(): Promise<void> {
    let ringing: Promise<boolean> | null = null;
    let lying = true;
    while (!this.stopping) {
      const { ended } = this;
      try {
        const lease = await leaseJob(this.tools.database, this.id, this.takes());
        if (lease === 'settled') continue;
        if (lease === 'suspect') this.makeRoom();
        else if (lease) {
          this.begin(lease.job);
          continue;
        }
        // One that ended while it looked has made room that the look did not count on.
        for (let heard = false; !heard && !this.stopping && ended === this.ended;) {
          ringing ??= this.bell.wait([...this.running.keys()], lying);
          const rang = await Promise.race([ringing, ...[...this.ends].map((end) => end.then(() => 'room' as const))]);
          // A job that is not trusted yet may have become so.
          heard = rang !== false || this.hasSuspect();
          // What lies there and has just been refused is no reason to look again at once.
          lying = rang !== true;
          if (rang !== 'room') ringing = null;
        }
      } catch (thrown) {
        ringing = null;
        if (this.stopping) return;
        this.report(`The database cannot be used: ${describeError(thrown)}`);
        await sleep(2000);
      }
    }
    await ringing?.catch(() => undefined);
  }

  /** Whether a job that an engine fell with runs here, and has not lived long enough to be trusted. */
  private hasSuspect(): boolean {
    return [...this.running.values()].some(({ control, began }) => control.job.falls > 0 && Date.now() - began < TRUSTED_AFTER);
  }

  private takes() {
    const own = [...this.running.values()];
    const hasRoom = (kind: JobKind) => own.filter(({ control }) => laneOf(control.job.request.kind) === laneOf(kind)).length < LANES[laneOf(kind)];
    return { kinds: this.hasSuspect() ? [] : jobKinds.filter(hasRoom), held: [...this.running.keys()], alone: own.length === 0 };
  }

  /** The next job has to run alone: batches let go, since whoever takes them over goes on; others are waited for. */
  private makeRoom(): void {
    for (const { control } of this.running.values()) if (control.job.request.kind === 'render') control.yield();
  }

  private begin(job: Job): void {
    const lane = laneOf(job.request.kind);
    const waitingFor = givesWay(job.request) ? jobKinds.filter((kind) => laneOf(kind) === lane) : [];
    const control = new JobControl(this.tools.database, job, this.id, waitingFor);
    this.running.set(job.id, { control, began: Date.now() });
    const end = this.run(job, control)
      .catch((thrown: unknown) => this.report(`Job ${job.id} (${job.request.kind}) could not be ended: ${traceOf(thrown)}`))
      .finally(() => {
        this.running.delete(job.id);
        this.ends.delete(end);
        this.ended++;
      });
    this.ends.add(end);
  }

  private async run(job: Job, control: JobControl): Promise<void> {
    let commit: Commit | null = null;
    let failure: unknown = null;
    try {
      commit = await perform(this.tools, control);
    } catch (thrown) {
      failure = thrown ?? new Error('Something was thrown that says nothing.');
    }
    try {
      if (failure === null) await this.end(job, control, commit);
      else await this.fail(job, failure);
    } catch (thrown) {
      // What was to be written down could not be: that is why the job failed.
      await this.fail(job, thrown).catch((again: unknown) => this.giveBack(job, again));
    } finally {
      await control.close();
    }
  }

  private async end(job: Job, control: JobControl, commit: Commit | null): Promise<void> {
    const { database } = this.tools;
    if (commit) await finishJob(database, job.id, this.id, { state: 'done' }, commit);
    else if (control.stopReason === 'cancel') await finishJob(database, job.id, this.id, { state: 'cancelled' });
    // What was lost is not ours any more, or lies there until somebody takes it.
    else await releaseJob(database, job.id, this.id);
    this.breaks.delete(job.id);
  }

  private async fail(job: Job, thrown: unknown): Promise<void> {
    if (thrown instanceof LeaseLostError) return releaseJob(this.tools.database, job.id, this.id);
    if (isDatabaseAway(thrown)) {
      const breaks = (this.breaks.get(job.id) ?? 0) + 1;
      this.breaks.set(job.id, breaks);
      // The job is as it was, and waits for the database to be back.
      if (breaks < MOST_BREAKS) return this.giveBack(job, thrown);
    }
    const error = asJobError(thrown);
    if (!(thrown instanceof MintError)) this.report(`Job ${job.id} (${job.request.kind}) failed: ${traceOf(thrown)}`);
    await finishJob(this.tools.database, job.id, this.id, { state: 'failed', error });
    this.breaks.delete(job.id);
  }

  /** Gives a job back as soon as the database hears of it; when it stays away, the lease runs out. */
  private async giveBack(job: Job, why: unknown): Promise<void> {
    this.report(`Job ${job.id} (${job.request.kind}) is given back: ${describeError(why)}`);
    for (let turn = 0; turn < GIVE_BACK_TRIES && !this.stopping; turn++) {
      await sleep(GIVE_BACK_EVERY);
      try {
        return await releaseJob(this.tools.database, job.id, this.id);
      } catch (thrown) {
        if (!isDatabaseAway(thrown)) throw thrown;
      }
    }
  }
}

function traceOf(thrown: unknown): string {
  return thrown instanceof Error ? (thrown.stack ?? thrown.message) : String(thrown);
}

function asJobError(thrown: unknown): JobError {
  if (thrown instanceof MintError) return { code: thrown.code, message: thrown.message, remedy: thrown.remedy };
  return { code: 'unexpected', message: `Something unexpected happened: ${describeError(thrown)}`.slice(0, 2000), remedy: 'The engine’s messages say more.' };
}
