import { randomUUID } from 'node:crypto';
import { readFileSync, readlinkSync } from 'node:fs';
import os from 'node:os';
import { setTimeout as sleep } from 'node:timers/promises';
import { describeError, MintError } from '@mint-tally/core';
import {
  finishJob,
  isDatabaseAway,
  leaseJob,
  listOrphanBatches,
  noteAbsence,
  notePresence,
  releaseFallenEngines,
  releaseJob,
  requestJob,
  type Job,
  type JobError,
  type JobRequest,
  type Queryable,
} from '@mint-tally/store';
import { measureShot } from '../measuring/measure-shot.ts';
import { mergeShot } from '../merging/merge-shot.ts';
import { runBatch } from '../rendering/run-batch.ts';
import { countShot } from './count-shot.ts';
import { JobControl } from './job-control.ts';
import type { JobTools } from './job-tools.ts';
import { packageShot } from './package-shot.ts';

const WORKING_KINDS = ['count', 'package', 'measure', 'merge'] as const;
/** Batches that are followed at a time; they wait nearly all of it. */
const BATCH_LANES = 8;
/** Jobs at a time: writing a package waits on disks, so a count may go on beside it. */
const LANES = 2;
const LOOK_EVERY = 250;
const GIVE_BACK_TRIES = 240;
const PRESENCE_EVERY = 5000;

/** This computer, its present run and its numbering of processes: where process numbers mean what they say. */
const HOST = [os.hostname(), read(() => readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim()), read(() => readlinkSync('/proc/self/ns/pid'))].join(
  ' ',
);

function read(from: () => string): string {
  try {
    return from();
  } catch {
    return '';
  }
}

function isAlive(processId: number): boolean {
  try {
    process.kill(processId, 0);
    return true;
  } catch (thrown) {
    return (thrown as NodeJS.ErrnoException).code !== 'ESRCH';
  }
}

/** Takes jobs from the database and does them, until it is stopped. */
export class JobRunner {
  readonly id = randomUUID();
  private readonly tools: JobTools;
  private readonly report: (line: string) => void;
  private readonly running = new Set<JobControl>();
  private stopping = false;
  private lanes: Promise<void>[] = [];
  private presence: NodeJS.Timeout | null = null;

  /** @param report receives a line for each thing that an operator should read */
  constructor(tools: JobTools, report: (line: string) => void) {
    this.tools = tools;
    this.report = report;
  }

  async start(): Promise<void> {
    await releaseFallenEngines(this.tools.database, HOST, isAlive);
    await this.notePresence();
    this.presence = setInterval(() => void this.notePresence().catch((thrown: unknown) => this.report(describeError(thrown))), PRESENCE_EVERY);
    this.lanes = [...Array.from({ length: LANES }, () => this.work(WORKING_KINDS)), ...Array.from({ length: BATCH_LANES }, () => this.work(['render']))];
  }

  /** Stops between two files; unfinished jobs go back to wait for the next engine. */
  async stop(): Promise<void> {
    this.stopping = true;
    if (this.presence) clearInterval(this.presence);
    for (const control of this.running) control.shutDown();
    await Promise.all(this.lanes);
    await noteAbsence(this.tools.database, this.id);
  }

  private async notePresence(): Promise<void> {
    for (const { id, shotId, actor } of await listOrphanBatches(this.tools.database)) {
      await requestJob(this.tools.database, shotId, { kind: 'render', batch: id }, actor);
    }
    await notePresence(this.tools.database, { id: this.id, host: HOST, processId: process.pid });
  }

  private async work(kinds: readonly JobRequest['kind'][]): Promise<void> {
    while (!this.stopping) {
      let job: Job | null = null;
      try {
        job = await leaseJob(this.tools.database, this.id, kinds);
        if (job) await this.run(job);
      } catch (thrown) {
        this.report(`The database cannot be used: ${describeError(thrown)}`);
        await sleep(2000);
      }
      if (!job) await sleep(LOOK_EVERY);
    }
  }

  private async run(job: Job): Promise<void> {
    const control = new JobControl(this.tools.database, job, this.id);
    this.running.add(control);
    let commit: ((inside: Queryable) => Promise<unknown>) | null = null;
    let error: JobError | undefined;
    let away = false;
    try {
      commit = await this.perform(job, control);
    } catch (thrown) {
      away = isDatabaseAway(thrown);
      error = asJobError(thrown);
      if (error.code === 'unexpected' && !away) this.report(`Job ${job.id} (${job.request.kind}) failed: ${(thrown as Error)?.stack ?? String(thrown)}`);
    } finally {
      await control.close();
      this.running.delete(control);
    }
    // The job is as it was, and waits for the database to be back.
    if (away) return this.giveBack(job);
    try {
      await this.end(job, control, commit, error);
    } catch (thrown) {
      if (!isDatabaseAway(thrown)) throw thrown;
      await this.giveBack(job);
    }
  }

  private async end(job: Job, control: JobControl, commit: ((inside: Queryable) => Promise<unknown>) | null, error: JobError | undefined): Promise<void> {
    const { database } = this.tools;
    if (error) await finishJob(database, job.id, this.id, { state: 'failed', error });
    else if (commit) await finishJob(database, job.id, this.id, { state: 'done' }, commit);
    else if (control.stopReason === 'shutdown') await releaseJob(database, job.id, this.id);
    else if (control.stopReason === 'cancel') await finishJob(database, job.id, this.id, { state: 'cancelled' });
  }

  /** Gives a job back as soon as the database hears of it; when it stays away, the lease runs out. */
  private async giveBack(job: Job): Promise<void> {
    for (let turn = 0; turn < GIVE_BACK_TRIES && !this.stopping; turn++) {
      await sleep(LOOK_EVERY);
      try {
        return await releaseJob(this.tools.database, job.id, this.id);
      } catch (thrown) {
        if (!isDatabaseAway(thrown)) throw thrown;
      }
    }
  }

  /** Gives what to write down at the end, or null when the job was stopped. */
  private async perform(job: Job, control: JobControl): Promise<((inside: Queryable) => Promise<unknown>) | null> {
    if (job.request.kind === 'package') return packageShot(this.tools, control);
    if (job.request.kind === 'merge') return mergeShot(this.tools, control);
    if (job.request.kind === 'render') return runBatch(this.tools, control);
    if (job.request.kind === 'measure') {
      const measured = await measureShot(this.tools, control);
      return measured && (async () => measured);
    }
    const count = await countShot(this.tools, control);
    return count && (async (inside) => ({ tallyId: await count.save(inside) }));
  }
}

function asJobError(thrown: unknown): JobError {
  if (thrown instanceof MintError) return { code: thrown.code, message: thrown.message, remedy: thrown.remedy };
  return { code: 'unexpected', message: `Something unexpected happened: ${describeError(thrown)}`, remedy: 'The engine’s messages say more.' };
}
