import { setTimeout as sleep } from 'node:timers/promises';
import { describeError, MintError } from '@mint-tally/core';
import {
  endBatch,
  findBatch,
  isDatabaseAway,
  listBatchFrames,
  raiseAlarm,
  settleAlarm,
  updateBatchFrame,
  wishBatch,
  type Batch,
  type BatchFrame,
} from '@mint-tally/store';
import { mayPass } from '../files/retry.ts';
import { countShot, type CountControl } from '../jobs/count-shot.ts';
import { LeaseLostError, type Commit, type JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { findingsOfBatch, judgeFrames, raiseBadInRow } from './judge-frames.ts';
import { ServiceError } from '../render-service/http-service.ts';
import { ServiceTasks } from './service-tasks.ts';
import { findService } from '../render-service/services.ts';
import { watchArrivals, watchMachines } from './watch-machines.ts';

const LOOK_EVERY = 300;
const LOOK_AT_MACHINES_EVERY = 2000;
/** A folder that nobody reports on is counted this often at most. */
const WATCH_EVERY = 2000;
/** Counting takes no more than this share of the time. */
const COUNT_SHARE = 4;

/** Unexpected failures in a row after which a batch is given up; between two of them it rests, in milliseconds. */
const MOST_FAILURES = 5;
const AFTER_FAILURE = 2000;

/** What will not get better by itself: the service refuses what was asked for, or what it stands on is gone. */
const FINAL: ReadonlySet<string> = new Set([
  'service-refused',
  'no-batch',
  'no-brief',
  'no-shot',
  'no-service',
  'unknown-root',
  'outside-root',
  'not-writable',
]);
const isFinal = (thrown: unknown) => thrown instanceof MintError && FINAL.has(thrown.code);
/** What may: a share that is away, a service in trouble. A batch waits for it as long as it takes; a person can stop it. */
const maySettle = (thrown: unknown) => thrown instanceof MintError || mayPass(thrown);

const isOver = ({ state }: BatchFrame) => state === 'done' || state === 'failed' || state === 'stopped';

/**
 * Brings a batch about: gives frames to the render service, follows them, counts what has arrived
 * and says what is wrong with it. All that it knows stands in the database, so whoever takes the job
 * over goes on where it was. Without a service the folder is watched, and people render elsewhere.
 *
 * @returns what ends the job, or null when this engine is to let go of it
 * @throws MintError when the service refuses what was asked for
 */
export async function runBatch(tools: JobTools, control: JobControl): Promise<Commit | null> {
  const { database } = tools;
  const request = control.job.request as Extract<JobControl['job']['request'], { kind: 'render' }>;
  const first = await findBatch(database, request.batch);
  if (!first) throw new MintError('no-batch', 'The batch is not there any more.');
  if (first.outcome !== null) return async () => null;
  try {
    return await new BatchKeeper(tools, control, first).keep();
  } catch (thrown) {
    // A database that is away, or a lease that is lost, says nothing against the batch.
    if (!isDatabaseAway(thrown) && !(thrown instanceof LeaseLostError)) await giveUpBatch(tools, first.id);
    throw thrown;
  }
}

/** Ends a batch that cannot go on: what its tasks still hold at the service is stopped, then it has failed. */
export async function giveUpBatch({ database, services, config }: JobTools, batchId: number): Promise<void> {
  const batch = await findBatch(database, batchId);
  if (!batch || batch.outcome !== null) return;
  const service = services.find(({ name }) => name === batch.service);
  if (service) await new ServiceTasks(database, service, batch, config).stopAll(await listBatchFrames(database, batchId));
  await database.transaction((inside) => endBatch(inside, batchId, 'failed'));
}

class BatchKeeper {
  private readonly tools: JobTools;
  private readonly control: JobControl;
  private readonly id: number;
  private readonly tasks: ServiceTasks | null;
  /** Whether something may have arrived that has not been counted. */
  private changed = true;
  private countedAt = 0;
  private countTook = 0;
  private machinesAt = 0;

  constructor(tools: JobTools, control: JobControl, batch: Batch) {
    this.tools = tools;
    this.control = control;
    this.id = batch.id;
    this.tasks = batch.service === null ? null : new ServiceTasks(tools.database, findService(tools.services, batch.service), batch, tools.config);
  }

  async keep(): Promise<Commit | null> {
    const { database } = this.tools;
    for (let failures = 0; ;) {
      const { stopReason } = this.control;
      if (stopReason !== null && stopReason !== 'cancel') return null;
      try {
        const outcome = await this.lookOnce();
        if (failures > 0) await settleAlarm(database, this.id, 'trouble', '');
        failures = 0;
        if (outcome !== null) {
          return async (inside) => {
            await endBatch(inside, this.id, outcome);
            return { outcome };
          };
        }
        await sleep(LOOK_EVERY);
      } catch (thrown) {
        if (isDatabaseAway(thrown) || thrown instanceof LeaseLostError || isFinal(thrown) || (!maySettle(thrown) && ++failures >= MOST_FAILURES)) throw thrown;
        failures ||= 1;
        await raiseAlarm(database, this.id, 'trouble', '', describeError(thrown));
        await sleep(AFTER_FAILURE);
      }
    }
  }

  /** @returns how the batch ended, or null while it goes on */
  private async lookOnce(): Promise<'stopped' | 'done' | null> {
    const { database } = this.tools;
    const batch = await this.readBatch();
    await this.follow(batch, await listBatchFrames(database, this.id));
    try {
      await this.countWhenDue(batch);
    } catch (thrown) {
      // Whoever wants it stopped need not wait for a folder that is away.
      const isLeft = batch.wanted.startsWith('stop') && (await listBatchFrames(database, this.id)).every(isOver);
      if (isLeft && maySettle(thrown)) return 'stopped';
      throw thrown;
    }
    const frames = await listBatchFrames(database, this.id);
    this.report(frames);
    if (!frames.every(isOver) || this.changed) return null;
    return frames.some(({ state }) => state === 'stopped') ? 'stopped' : 'done';
  }

  private async readBatch(): Promise<Batch> {
    const { database } = this.tools;
    if (this.control.stopReason === 'cancel') await wishBatch(database, this.id, 'stop-now');
    const batch = await findBatch(database, this.id);
    if (!batch) throw new MintError('no-batch', 'The batch is not there any more.');
    return batch;
  }

  /** Brings service and database to the same state. A service that is away is asked again. */
  private async follow(batch: Batch, frames: readonly BatchFrame[]): Promise<void> {
    const { database } = this.tools;
    if (!this.tasks) {
      if (batch.wanted.startsWith('stop')) await this.letGo(frames);
      else await watchArrivals(database, this.id, frames);
      return;
    }
    try {
      if (await this.tasks.follow(batch, frames)) this.changed = true;
      if (Date.now() - this.machinesAt > LOOK_AT_MACHINES_EVERY) {
        this.machinesAt = Date.now();
        await watchMachines(database, this.id, await this.tasks.service.machines(), await listBatchFrames(database, this.id));
      }
      await settleAlarm(database, this.id, 'service-lost', '');
    } catch (thrown) {
      if (!(thrown instanceof ServiceError) || thrown.code === 'service-refused') throw thrown;
      await raiseAlarm(database, this.id, 'service-lost', '', describeError(thrown));
      // Nobody is there to stop anything: what was not begun is stopped by being forgotten.
      if (batch.wanted.startsWith('stop')) await this.letGo(frames);
    }
  }

  private async letGo(frames: readonly BatchFrame[]): Promise<void> {
    const ids = frames.filter((frame) => !isOver(frame)).map(({ frame }) => frame);
    for (const frame of ids) await updateBatchFrame(this.tools.database, this.id, frame, { state: 'stopped', machine: null, seconds: null });
    this.changed ||= ids.length > 0;
  }

  /** Counts the folder when something has arrived. */
  private async countWhenDue(batch: Batch): Promise<void> {
    const now = Date.now();
    const watched = batch.service === null || this.tasks?.mustLook === true;
    const pause = Math.max(this.changed ? 500 : WATCH_EVERY, this.countTook * COUNT_SHARE);
    if ((!this.changed && !watched) || now - this.countedAt < pause) return;
    this.changed = false;
    const { database } = this.tools;
    try {
      const count = await countShot(this.tools, this.quiet());
      if (!count) {
        this.changed = true;
        return;
      }
      await database.transaction(async (inside) => {
        await count.save(inside);
        const { order, tally } = count.result;
        await judgeFrames(inside, batch, await listBatchFrames(inside, this.id), findingsOfBatch(batch, order, tally.findings));
      });
    } catch (thrown) {
      // What has arrived is still to be counted.
      this.changed = true;
      throw thrown;
    }
    await raiseBadInRow(database, batch, await listBatchFrames(database, this.id));
    this.tasks?.looked(now);
    this.countedAt = Date.now();
    this.countTook = this.countedAt - now;
  }

  /** The count reports nothing of its own, and goes on while the batch is being stopped. */
  private quiet(): CountControl {
    const { control } = this;
    return {
      job: control.job,
      get stopReason() {
        return control.stopReason === 'cancel' ? null : control.stopReason;
      },
      report: () => undefined,
    };
  }

  private report(frames: readonly BatchFrame[]): void {
    const done = frames.filter(({ state }) => state === 'done' || state === 'failed').length;
    this.control.report({ phase: 'batch', done, total: frames.length, bytesDone: done, bytesTotal: frames.length });
  }
}
