import { randomUUID } from 'node:crypto';
import { MintError, SETTLED_AFTER, type RenderTask } from '@mint-tally/core';
import { addBatchLines, assignTask, findShot, giveFrames, lastLines, updateBatchFrame, type Batch, type BatchFrame, type Database } from '@mint-tally/store';
import type { Config } from '../config/config.ts';
import { findRoot, resolveWritable } from '../files/roots.ts';
import type { RenderService } from '../render-service/service.ts';

const isOpen = ({ state }: BatchFrame) => state === 'waiting' || state === 'rendering';

/**
 * The tasks of a batch at its render service. What is to be and what is stand in the database; each
 * look brings the service nearer to it. A task's number is written down before the service hears
 * of it, so that a crash in between neither loses a frame nor has it rendered twice.
 */
export class ServiceTasks {
  readonly service: RenderService;
  private readonly database: Database;
  private readonly batchId: number;
  private readonly shotId: number;
  private readonly config: Config;
  private folder: string | null = null;
  /** No frame is handed out before this: a forgotten task's files must first be looked at. */
  private holdUntil = 0;

  constructor(database: Database, service: RenderService, batch: Batch, config: Config) {
    this.database = database;
    this.service = service;
    this.batchId = batch.id;
    this.shotId = batch.shotId;
    this.config = config;
    // An engine before this one may have fallen between a frame's end and its being written down.
    if (Date.now() - batch.createdAt.getTime() > SETTLED_AFTER) this.hold();
  }

  private hold(): void {
    this.holdUntil = Date.now() + SETTLED_AFTER + 500;
  }

  /** Whether the folder must be counted although nobody told of anything new. */
  get mustLook(): boolean {
    return this.holdUntil > 0 || this.service.reportsNothing === true;
  }

  /** The folder has been counted. @param since when that count began, in milliseconds since 1970 */
  looked(since: number): void {
    if (since > this.holdUntil) this.holdUntil = 0;
  }

  /** One look: takes over what the service reports, then asks it for what is wanted. True when a frame came to its end. */
  async follow(batch: Batch, frames: readonly BatchFrame[]): Promise<boolean> {
    let ended = false;
    const known = await lastLines(this.database, this.batchId);
    for (const [taskId, own] of groupByTask(frames)) {
      if (!own.some(isOpen)) continue;
      const task = await this.service.status(taskId, known.get(taskId) ?? 0);
      if (!task) {
        await this.forget(own);
        continue;
      }
      if (await this.takeOver(batch, task, own)) ended = true;
      await this.steer(batch, task, own);
    }
    if (batch.wanted === 'run') await this.handOut(batch, await this.moveFramesOfMachinesOut(batch, frames));
    else if (batch.wanted !== 'pause') ended = (await this.stopNotGivenOut(frames)) || ended;
    return ended;
  }

  /** The service was started anew: what it had not finished is given out once the files have been looked at. */
  private async forget(own: readonly BatchFrame[]): Promise<void> {
    await assignTask(
      this.database,
      this.batchId,
      null,
      own.filter(isOpen).map(({ frame }) => frame),
    );
    this.hold();
  }

  private async takeOver(batch: Batch, task: RenderTask, own: readonly BatchFrame[]): Promise<boolean> {
    let ended = false;
    await addBatchLines(this.database, this.batchId, task.id, task.lines);
    const byFrame = new Map(own.map((frame) => [frame.frame, frame]));
    for (const { frame, state, machine, seconds } of task.frames) {
      const before = byFrame.get(frame);
      if (!before || before.state === state || !isOpen(before)) continue;
      // Nobody here asked for it to stop: somebody restarted the machine. It is given out once more.
      if (state === 'stopped' && batch.wanted === 'run' && !batch.settings.out.includes(before.machine)) {
        await assignTask(this.database, this.batchId, null, [frame]);
        continue;
      }
      await updateBatchFrame(this.database, this.batchId, frame, { state, machine, seconds });
      if (state === 'done' || state === 'failed' || state === 'stopped') ended = true;
    }
    return ended;
  }

  /** Pauses, goes on or stops, where the task is not that way already. */
  private async steer(batch: Batch, task: RenderTask, own: readonly BatchFrame[]): Promise<void> {
    if (task.state === 'done' || task.state === 'stopped') return;
    const out = own.some(({ machine }) => batch.settings.out.includes(machine));
    if (out) await this.service.control(task.id, { action: 'stop', when: 'now' });
    else if (batch.wanted === 'stop-now') await this.service.control(task.id, { action: 'stop', when: 'now' });
    else if (batch.wanted === 'stop-after-frame') await this.service.control(task.id, { action: 'stop', when: 'after-frame' });
    else if (batch.wanted === 'pause' && task.state !== 'paused') await this.service.control(task.id, { action: 'pause' });
    else if (batch.wanted === 'run' && task.state === 'paused') await this.service.control(task.id, { action: 'resume' });
    if (task.priority !== batch.settings.priority) await this.service.control(task.id, { action: 'priority', priority: batch.settings.priority });
  }

  /** Frames that a machine taken out had not done go to the others, in turn. */
  private async moveFramesOfMachinesOut(batch: Batch, frames: readonly BatchFrame[]): Promise<readonly BatchFrame[]> {
    const { out } = batch.settings;
    const others = [...new Set(frames.map(({ machine }) => machine))].filter((machine) => !out.includes(machine));
    const left = frames.filter((frame) => out.includes(frame.machine) && (frame.state === 'stopped' || (frame.state === 'waiting' && frame.taskId === null)));
    if (others.length === 0 || left.length === 0) return frames.filter(({ machine }) => !out.includes(machine));
    const shares = others.map((machine, i) => ({ machine, frames: left.filter((_, turn) => turn % others.length === i).map(({ frame }) => frame) }));
    await this.database.transaction((inside) => giveFrames(inside, this.batchId, shares));
    // The next look hands them out, by their new places.
    return [];
  }

  private async handOut(batch: Batch, frames: readonly BatchFrame[]): Promise<void> {
    if (this.holdUntil > 0) return;
    for (const machine of new Set(frames.map((frame) => frame.machine))) {
      const own = frames.filter((frame) => frame.machine === machine);
      // The next frames are there before the machine has done its last.
      if (own.some(({ state, taskId }) => state === 'waiting' && taskId !== null)) continue;
      const next = own
        .filter(({ state, taskId }) => state === 'waiting' && taskId === null)
        .sort((a, b) => a.position - b.position)
        .slice(0, batch.settings.chunk)
        .map(({ frame }) => frame);
      if (next.length === 0) continue;
      const folder = await this.findFolder();
      const id = randomUUID();
      await assignTask(this.database, this.batchId, id, next);
      await this.service.takeTask(id, { folder, machine, frames: next, command: [...batch.command], priority: batch.settings.priority });
    }
  }

  /** Stops every task that is not over; what cannot be reached is passed over. @returns why, of the first that could not */
  async stopAll(frames: readonly BatchFrame[]): Promise<unknown> {
    let failure: unknown = null;
    for (const [taskId, own] of groupByTask(frames)) {
      if (!own.some(isOpen)) continue;
      await this.service.control(taskId, { action: 'stop', when: 'now' }).catch((thrown: unknown) => (failure ??= thrown));
    }
    return failure;
  }

  private async stopNotGivenOut(frames: readonly BatchFrame[]): Promise<boolean> {
    const waiting = frames.filter(({ state, taskId }) => state === 'waiting' && taskId === null);
    for (const { frame } of waiting) await updateBatchFrame(this.database, this.batchId, frame, { state: 'stopped', machine: null, seconds: null });
    return waiting.length > 0;
  }

  private async findFolder(): Promise<string> {
    if (this.folder !== null) return this.folder;
    const shot = await findShot(this.database, this.shotId);
    if (!shot) throw new MintError('no-shot', 'The shot is not there any more.');
    this.folder = resolveWritable(findRoot(this.config.roots, shot.root), shot.folder);
    return this.folder;
  }
}

function groupByTask(frames: readonly BatchFrame[]): Map<string, BatchFrame[]> {
  const groups = new Map<string, BatchFrame[]>();
  for (const frame of frames) {
    if (frame.taskId === null) continue;
    const group = groups.get(frame.taskId);
    if (group) group.push(frame);
    else groups.set(frame.taskId, [frame]);
  }
  return groups;
}
