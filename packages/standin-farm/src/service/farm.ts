import {
  describeError,
  fillCommand,
  median,
  MintError,
  type LogLine,
  type Machine,
  type MachineControl,
  type RenderTaskControl,
  type RenderTaskRequest,
  type RenderTask,
} from '@mint-tally/core';
import { Piscina } from 'piscina';
import type { RenderResult, FrameTask } from '../nodes/render-worker.ts';
import { parseCommand, type RenderCommand } from './command.ts';
import { FrameWork, renderOn } from './machine.ts';

/** The farm's machines, after knots, and how fast they are. */
export const usualMachines = [
  { name: 'bowline', speed: 1 },
  { name: 'reef', speed: 0.75 },
  { name: 'sheetbend', speed: 0.5 },
  { name: 'clove', speed: 0.35 },
] as const;

type Frame = { -readonly [Key in keyof RenderTask['frames'][number]]: RenderTask['frames'][number][Key] };

interface Task {
  readonly id: string;
  readonly request: RenderTaskRequest;
  readonly command: RenderCommand;
  readonly frames: Frame[];
  readonly lines: LogLine[];
  state: RenderTask['state'];
  priority: number;
}

interface Node {
  readonly name: string;
  readonly speed: number;
  state: 'up' | 'paused' | 'down';
  work: { task: Task; frame: Frame; work: FrameWork } | null;
  framesDone: number;
  framesSinceStart: number;
  readonly seconds: number[];
}

/** Raised when a task or a machine is asked for that is not there, or is asked for twice. */
export class FarmError extends MintError {}

const LINES_KEPT = 5000;

/**
 * Several named machines that take frames from tasks. It keeps nothing over its own end: whoever
 * asked for them knows what they were, and the files tell what was done.
 */
export class Farm {
  private readonly nodes: Node[];
  private readonly tasks = new Map<string, Task>();
  private readonly pool: Piscina<FrameTask, RenderResult | null>;
  private closed = false;

  constructor(options: { workerFile: string; threads: number; machines?: readonly { name: string; speed: number }[] }) {
    this.pool = new Piscina({ filename: options.workerFile, maxThreads: options.threads, minThreads: 0, idleTimeout: 10_000 });
    this.nodes = (options.machines ?? usualMachines).map(({ name, speed }) => ({
      name,
      speed,
      state: 'up',
      work: null,
      framesDone: 0,
      framesSinceStart: 0,
      seconds: [],
    }));
  }

  /** Breaks off everything and ends the threads. */
  async close(): Promise<void> {
    this.closed = true;
    for (const node of this.nodes) node.work?.work.stop();
    await this.pool.destroy();
  }

  machines(): Machine[] {
    return this.nodes.map((node) => ({
      name: node.name,
      state: node.state === 'up' ? (node.work ? 'rendering' : 'idle') : node.state,
      speed: node.speed,
      doing: node.work && {
        task: node.work.task.id,
        frame: node.work.frame.frame,
        since: node.work.work.startedAt.toISOString(),
        share: node.work.work.share,
      },
      framesDone: node.framesDone,
      medianSeconds: node.seconds.length === 0 ? null : median(node.seconds),
    }));
  }

  /** @throws FarmError when there is no such machine */
  controlMachine(name: string, { action }: MachineControl): void {
    const node = this.nodes.find((one) => one.name === name);
    if (!node) throw new FarmError('no-machine', `There is no machine ${name}.`, { remedy: `There are ${this.nodes.map((one) => one.name).join(', ')}.` });
    if (action === 'pause') {
      if (node.state === 'up') node.state = 'paused';
    } else {
      if (action === 'restart') {
        node.work?.work.stop();
        node.framesSinceStart = 0;
      } else if (node.state === 'down') throw new FarmError('machine-down', `${name} has no power.`, { remedy: 'Restart it.' });
      node.state = 'up';
    }
    this.handOut();
  }

  /**
   * Takes a task. The same id with the same request is the same task, once.
   *
   * @throws FarmError, CommandError
   */
  takeTask(id: string, request: RenderTaskRequest): void {
    const known = this.tasks.get(id);
    if (known) {
      if (JSON.stringify(known.request) === JSON.stringify(request)) return;
      throw new FarmError('task-taken', `There is another task ${id} already.`, { remedy: 'Choose a new id.' });
    }
    if (request.machine !== null && !this.nodes.some((node) => node.name === request.machine)) {
      throw new FarmError('no-machine', `There is no machine ${request.machine}.`, { remedy: `There are ${this.nodes.map((one) => one.name).join(', ')}.` });
    }
    // One process renders all of a task's frames, so the frame itself is nothing to the command.
    const command = parseCommand(fillCommand(request.command, { frame: String(request.frames[0]), folder: request.folder }));
    const frames = request.frames.map((frame): Frame => ({ frame, state: 'waiting', machine: null, seconds: null }));
    this.tasks.set(id, { id, request, command, frames, lines: [], state: 'waiting', priority: request.priority });
    this.handOut();
  }

  /** @throws FarmError when there is no such task */
  status(id: string, after = 0): RenderTask {
    const task = this.find(id);
    return { id, state: task.state, priority: task.priority, frames: task.frames, lines: task.lines.filter(({ number }) => number > after) };
  }

  list(): { id: string; state: RenderTask['state'] }[] {
    return [...this.tasks.values()].map(({ id, state }) => ({ id, state }));
  }

  /** @throws FarmError when there is no such task */
  control(id: string, control: RenderTaskControl): void {
    const task = this.find(id);
    const over = task.state === 'done' || task.state === 'stopped';
    if (control.action === 'priority') task.priority = control.priority;
    else if (over) return;
    else if (control.action === 'pause') task.state = 'paused';
    else if (control.action === 'resume') task.state = 'waiting';
    else {
      for (const frame of task.frames) if (frame.state === 'waiting') frame.state = 'stopped';
      if (control.when === 'now') for (const node of this.nodes) if (node.work?.task === task) node.work.work.stop();
      if (task.state === 'paused') task.state = 'waiting';
      this.settle(task);
    }
    this.handOut();
  }

  private find(id: string): Task {
    const task = this.tasks.get(id);
    if (!task)
      throw new FarmError('no-task', `There is no task ${id}.`, {
        remedy: 'The farm forgets its tasks when it is started anew: ask again for what is missing.',
      });
    return task;
  }

  /** Gives every free machine a frame, of the task that comes first. */
  private handOut(): void {
    for (const node of this.nodes) {
      if (this.closed || node.state !== 'up' || node.work) continue;
      const task = [...this.tasks.values()]
        .filter(({ state, request, frames }) => {
          const fits = request.machine === null || request.machine === node.name;
          return fits && (state === 'waiting' || state === 'rendering') && frames.some((frame) => frame.state === 'waiting');
        })
        .sort((a, b) => b.priority - a.priority)[0];
      if (task)
        void this.render(
          node,
          task,
          task.frames.find(({ state }) => state === 'waiting')!,
        );
    }
  }

  private async render(node: Node, task: Task, frame: Frame): Promise<void> {
    const work = new FrameWork(frame.frame, task.command.samples);
    node.work = { task, frame, work };
    frame.state = 'rendering';
    frame.machine = node.name;
    task.state = 'rendering';
    const say = (text: string) => this.say(task, node.name, text);
    const end = await renderOn(node, task.command, work, task.request.folder, this.pool, say).catch((thrown: unknown) => {
      if (!this.closed) say(`frame ${frame.frame}: ${describeError(thrown)}`);
      return 'failed' as const;
    });
    // What is broken off by the farm's own end has come to none; nobody is to hear of it.
    if (this.closed) return;
    node.work = null;
    if (end === 'power-loss') {
      node.state = 'down';
      say('no answer any more');
      frame.state = 'failed';
    } else frame.state = end;
    if (end === 'failed') say(`frame ${frame.frame}: the renderer ended with status 1`);
    if (end === 'done') {
      frame.seconds = (Date.now() - work.startedAt.getTime()) / 1000;
      node.seconds.push(frame.seconds);
      node.framesDone++;
    }
    node.framesSinceStart++;
    this.settle(task);
    this.handOut();
  }

  /** A task whose frames have all come to an end has come to one itself. */
  private settle(task: Task): void {
    if (task.frames.some(({ state }) => state === 'waiting' || state === 'rendering')) return;
    task.state = task.frames.some(({ state }) => state === 'stopped') ? 'stopped' : 'done';
  }

  private say(task: Task, machine: string, text: string): void {
    const number = (task.lines.at(-1)?.number ?? 0) + 1;
    task.lines.push({ number, at: new Date().toISOString(), machine, text });
    if (task.lines.length > LINES_KEPT) task.lines.shift();
  }
}
