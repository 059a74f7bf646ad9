import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { createInterface } from 'node:readline';
import {
  describeError,
  fillCommand,
  median,
  RENDER_SERVICE_VERSION,
  type LogLine,
  type Machine,
  type MachineControl,
  type RenderTaskControl,
  type RenderTaskRequest,
  type RenderTask,
  type ServiceDescription,
} from '@mint-tally/core';
import type { LocalCommand } from '../config/config.ts';
import { ServiceError } from './http-service.ts';
import type { RenderService } from './service.ts';

const LINES_KEPT = 5000;
const LONGEST_LINE = 10_000;

interface Task {
  readonly id: string;
  readonly request: RenderTaskRequest;
  readonly frames: { frame: number; state: RenderTask['frames'][number]['state']; machine: string | null; seconds: number | null }[];
  readonly lines: LogLine[];
  state: RenderTask['state'];
  priority: number;
  process: ChildProcess | null;
  stopped: boolean;
}

/**
 * A renderer on this computer as a render service. The configuration names program and arguments;
 * it is run without a shell, one run of consecutive frames at a time, and its output is the log.
 * Frames end with their process; those that it finishes before are told by the folder.
 */
export class LocalCommandService implements RenderService {
  readonly name: string;
  readonly reportsNothing = true;
  readonly fixedCommand = true;
  private readonly config: LocalCommand;
  private readonly tasks = new Map<string, Task>();
  /** Holds the number of a renderer that is running, in case this process falls. */
  private readonly mark: string;
  private busy = false;
  private paused = false;
  private framesDone = 0;
  private readonly seconds: number[] = [];

  constructor(config: LocalCommand, dataFolder: string) {
    this.config = config;
    this.name = config.name;
    mkdirSync(dataFolder, { recursive: true });
    this.mark = path.join(dataFolder, 'local-command.json');
  }

  async describe(): Promise<ServiceDescription> {
    return {
      name: this.name,
      version: RENDER_SERVICE_VERSION,
      command: [this.config.program, ...this.config.arguments],
      tokens: ['first', 'last', 'frame', 'folder'],
    };
  }

  async machines(): Promise<Machine[]> {
    const running = [...this.tasks.values()].find((task) => task.process);
    const inHand = running?.frames.find(({ state }) => state === 'rendering');
    return [
      {
        name: this.name,
        state: this.paused ? 'paused' : running ? 'rendering' : 'idle',
        speed: 1,
        doing: running && inHand ? { task: running.id, frame: inHand.frame, since: new Date().toISOString(), share: 0 } : null,
        framesDone: this.framesDone,
        medianSeconds: this.seconds.length > 0 ? median(this.seconds) : null,
      },
    ];
  }

  async controlMachine(_name: string, { action }: MachineControl): Promise<void> {
    this.paused = action === 'pause';
    if (action === 'restart') for (const task of this.tasks.values()) this.kill(task);
    this.next();
  }

  /** @throws ServiceError when the command is not the one that the configuration names */
  async takeTask(id: string, request: RenderTaskRequest): Promise<void> {
    if (this.tasks.has(id)) return;
    // Whoever can reach a page could else have any program run.
    const [program, ...rest] = request.command;
    if (program !== this.config.program || rest.length !== this.config.arguments.length) {
      throw new ServiceError('service-refused', `${this.name} runs the command of the configuration and no other.`, {
        remedy: 'Change localCommand in mint-tally.config.json, and start again.',
      });
    }
    const frames = request.frames.map((frame) => ({ frame, state: 'waiting' as const, machine: null, seconds: null }));
    this.tasks.set(id, { id, request, frames, lines: [], state: 'waiting', priority: request.priority, process: null, stopped: false });
    this.next();
  }

  async status(id: string, afterLine: number): Promise<RenderTask | null> {
    const task = this.tasks.get(id);
    if (!task) return null;
    return { id, state: task.state, priority: task.priority, frames: task.frames, lines: task.lines.filter(({ number }) => number > afterLine) };
  }

  async control(id: string, control: RenderTaskControl): Promise<void> {
    const task = this.tasks.get(id);
    if (!task || task.state === 'done' || task.state === 'stopped') return;
    if (control.action === 'priority') task.priority = control.priority;
    else if (control.action === 'pause') task.state = 'paused';
    else if (control.action === 'resume') task.state = 'waiting';
    else {
      task.stopped = true;
      for (const frame of task.frames) if (frame.state === 'waiting') frame.state = 'stopped';
      if (control.when === 'now') this.kill(task);
      this.settle(task);
    }
    this.next();
  }

  /** Ends what is running; called when the engine stops. */
  close(): void {
    for (const task of this.tasks.values()) this.kill(task);
  }

  /** Begins the next run of frames, when nothing runs. */
  private next(): void {
    if (this.busy || this.paused) return;
    const task = [...this.tasks.values()]
      .filter(({ state, frames }) => (state === 'waiting' || state === 'rendering') && frames.some((frame) => frame.state === 'waiting'))
      .sort((a, b) => b.priority - a.priority)[0];
    if (!task) return;
    this.busy = true;
    const frames = this.nextRun(task);
    void this.run(task, frames)
      .catch((thrown: unknown) => {
        // A full disk, say: these frames have failed, and the log says why.
        this.say(task, `The renderer could not be run: ${describeError(thrown)}`);
        for (const frame of frames) frame.state = 'failed';
      })
      .finally(() => {
        this.busy = false;
        this.settle(task);
        this.next();
      });
  }

  /** Frames that one process renders: consecutive ones, or a single one where the command names {frame}. */
  private nextRun(task: Task): Task['frames'] {
    const first = task.frames.findIndex(({ state }) => state === 'waiting');
    let end = first + 1;
    const single = this.config.arguments.some((argument) => argument.includes('{frame}'));
    while (!single && end < task.frames.length && task.frames[end]!.state === 'waiting' && task.frames[end]!.frame === task.frames[end - 1]!.frame + 1) end++;
    return task.frames.slice(first, end);
  }

  private async run(task: Task, frames: Task['frames']): Promise<void> {
    stopLeftOver(this.mark);
    const began = Date.now();
    const [first, last] = [frames[0]!.frame, frames.at(-1)!.frame];
    for (const frame of frames) Object.assign(frame, { state: 'rendering', machine: this.name });
    task.state = 'rendering';
    const status = await this.launch(task, first, last);
    const took = (Date.now() - began) / 1000;
    this.say(task, status === 0 ? `${first}-${last}: done in ${took.toFixed(1)} s` : `${first}-${last}: the renderer ended with ${status}`);
    for (const frame of frames) {
      frame.state = status === 0 ? 'done' : task.stopped ? 'stopped' : 'failed';
      if (status === 0) {
        frame.seconds = took / frames.length;
        this.seconds.push(frame.seconds);
        this.framesDone++;
      }
    }
  }

  /** Runs the program to its end. @returns its status, or in words why it has none */
  private launch(task: Task, first: number, last: number): Promise<number | string> {
    const tokens = { first: String(first), last: String(last), frame: String(first), folder: task.request.folder };
    const [program, ...rest] = fillCommand(task.request.command, tokens) as [string, ...string[]];
    return new Promise((resolve, reject) => {
      // A group of its own, so that whatever the renderer starts ends with it.
      const child = spawn(program, rest, { cwd: task.request.folder, stdio: ['ignore', 'pipe', 'pipe'], detached: true, shell: false });
      task.process = child;
      const end = (status: number | string) => {
        task.process = null;
        rmSync(this.mark, { force: true });
        resolve(status);
      };
      child.once('error', (thrown) => end(thrown.message));
      child.once('close', (code, signal) => end(code ?? signal ?? 'no status'));
      for (const stream of [child.stdout, child.stderr]) createInterface({ input: stream }).on('line', (line) => this.say(task, line));
      try {
        if (child.pid !== undefined) writeFileSync(this.mark, JSON.stringify({ processId: child.pid, started: startOf(child.pid) }));
      } catch (thrown) {
        // A renderer that nobody would find again after a fall must not run.
        this.kill(task);
        reject(thrown);
      }
    });
  }

  private kill(task: Task): void {
    if (task.process?.pid !== undefined) killGroup(task.process.pid);
  }

  private settle(task: Task): void {
    if (task.frames.some(({ state }) => state === 'waiting' || state === 'rendering')) return;
    task.state = task.frames.some(({ state }) => state === 'stopped') ? 'stopped' : 'done';
  }

  private say(task: Task, text: string): void {
    const number = (task.lines.at(-1)?.number ?? 0) + 1;
    task.lines.push({ number, at: new Date().toISOString(), machine: this.name, text: text.slice(0, LONGEST_LINE) });
    if (task.lines.length > LINES_KEPT) task.lines.shift();
  }
}

/** When a process began, in the kernel's own count: tells it from a later one of the same number. */
function startOf(processId: number): string {
  try {
    // The 22nd field, behind the name in brackets, which may hold spaces (proc(5)).
    return readFileSync(`/proc/${processId}/stat`, 'utf8')
      .replace(/^.*\) /s, '')
      .split(' ')[19]!;
  } catch {
    return '';
  }
}

/** Ends a renderer that an engine which fell has left: two must not write the same frames. */
function stopLeftOver(mark: string): void {
  if (!existsSync(mark)) return;
  try {
    const { processId, started } = JSON.parse(readFileSync(mark, 'utf8')) as { processId: number; started: string };
    if (started !== '' && startOf(processId) === started) killGroup(processId);
  } catch {
    // A mark that is half written names nobody.
  }
  rmSync(mark, { force: true });
}

function killGroup(processId: number): void {
  try {
    process.kill(-processId, 'SIGKILL');
  } catch {
    // It has ended by itself in this moment.
  }
}
