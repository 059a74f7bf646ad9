import {
  describeError,
  fillCommand,
  median,
  MintError,
  type LogLine,
  type Machine,
  type MachineControl,
  type OrderControl,
  type OrderRequest,
  type RenderOrder,
} from '@mint-tally/core';
import { Piscina } from 'piscina';
import type { RenderResult, RenderTask } from '../nodes/render-worker.ts';
import { parseCommand, type RenderCommand } from './command.ts';
import { FrameWork, renderOn } from './machine.ts';

/** The farm's machines, after knots, and how fast they are. */
export const usualMachines = [
  { name: 'bowline', speed: 1 },
  { name: 'reef', speed: 0.75 },
  { name: 'sheetbend', speed: 0.5 },
  { name: 'clove', speed: 0.35 },
] as const;

type Frame = { -readonly [Key in keyof RenderOrder['frames'][number]]: RenderOrder['frames'][number][Key] };

interface Order {
  readonly id: string;
  readonly request: OrderRequest;
  readonly command: RenderCommand;
  readonly frames: Frame[];
  readonly lines: LogLine[];
  state: RenderOrder['state'];
  priority: number;
}

interface Node {
  readonly name: string;
  readonly speed: number;
  state: 'up' | 'paused' | 'down';
  work: { order: Order; frame: Frame; work: FrameWork } | null;
  framesDone: number;
  framesSinceStart: number;
  readonly seconds: number[];
}

/** Raised when an order or a machine is asked for that is not there, or is asked for twice. */
export class FarmError extends MintError {}

const LINES_KEPT = 5000;

/**
 * Several named machines that take frames from orders. It keeps nothing over its own end: whoever
 * orders knows what was ordered, and the files tell what was done.
 */
export class Farm {
  private readonly nodes: Node[];
  private readonly orders = new Map<string, Order>();
  private readonly pool: Piscina<RenderTask, RenderResult | null>;
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
        order: node.work.order.id,
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
   * Takes an order. The same id with the same request is the same order, once.
   *
   * @throws FarmError, CommandError
   */
  order(id: string, request: OrderRequest): void {
    const known = this.orders.get(id);
    if (known) {
      if (JSON.stringify(known.request) === JSON.stringify(request)) return;
      throw new FarmError('order-taken', `There is another order ${id} already.`, { remedy: 'Choose a new id.' });
    }
    if (request.machine !== null && !this.nodes.some((node) => node.name === request.machine)) {
      throw new FarmError('no-machine', `There is no machine ${request.machine}.`, { remedy: `There are ${this.nodes.map((one) => one.name).join(', ')}.` });
    }
    // One process renders all of an order's frames, so the frame itself is nothing to the command.
    const command = parseCommand(fillCommand(request.command, { frame: String(request.frames[0]), folder: request.folder }));
    const frames = request.frames.map((frame): Frame => ({ frame, state: 'waiting', machine: null, seconds: null }));
    this.orders.set(id, { id, request, command, frames, lines: [], state: 'waiting', priority: request.priority });
    this.handOut();
  }

  /** @throws FarmError when there is no such order */
  status(id: string, after = 0): RenderOrder {
    const order = this.find(id);
    return { id, state: order.state, priority: order.priority, frames: order.frames, lines: order.lines.filter(({ number }) => number > after) };
  }

  list(): { id: string; state: RenderOrder['state'] }[] {
    return [...this.orders.values()].map(({ id, state }) => ({ id, state }));
  }

  /** @throws FarmError when there is no such order */
  control(id: string, control: OrderControl): void {
    const order = this.find(id);
    const over = order.state === 'done' || order.state === 'stopped';
    if (control.action === 'priority') order.priority = control.priority;
    else if (over) return;
    else if (control.action === 'pause') order.state = 'paused';
    else if (control.action === 'resume') order.state = 'waiting';
    else {
      for (const frame of order.frames) if (frame.state === 'waiting') frame.state = 'stopped';
      if (control.when === 'now') for (const node of this.nodes) if (node.work?.order === order) node.work.work.stop();
      if (order.state === 'paused') order.state = 'waiting';
      this.settle(order);
    }
    this.handOut();
  }

  private find(id: string): Order {
    const order = this.orders.get(id);
    if (!order)
      throw new FarmError('no-order', `There is no order ${id}.`, {
        remedy: 'The farm forgets its orders when it is started anew: order again what is missing.',
      });
    return order;
  }

  /** Gives every free machine a frame, of the order that comes first. */
  private handOut(): void {
    for (const node of this.nodes) {
      if (this.closed || node.state !== 'up' || node.work) continue;
      const order = [...this.orders.values()]
        .filter(({ state, request, frames }) => {
          const fits = request.machine === null || request.machine === node.name;
          return fits && (state === 'waiting' || state === 'rendering') && frames.some((frame) => frame.state === 'waiting');
        })
        .sort((a, b) => b.priority - a.priority)[0];
      if (order)
        void this.render(
          node,
          order,
          order.frames.find(({ state }) => state === 'waiting')!,
        );
    }
  }

  private async render(node: Node, order: Order, frame: Frame): Promise<void> {
    const work = new FrameWork(frame.frame, order.command.samples);
    node.work = { order, frame, work };
    frame.state = 'rendering';
    frame.machine = node.name;
    order.state = 'rendering';
    const say = (text: string) => this.say(order, node.name, text);
    const end = await renderOn(node, order.command, work, order.request.folder, this.pool, say).catch((thrown: unknown) => {
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
    this.settle(order);
    this.handOut();
  }

  /** An order whose frames have all come to an end has come to one itself. */
  private settle(order: Order): void {
    if (order.frames.some(({ state }) => state === 'waiting' || state === 'rendering')) return;
    order.state = order.frames.some(({ state }) => state === 'stopped') ? 'stopped' : 'done';
  }

  private say(order: Order, machine: string, text: string): void {
    const number = (order.lines.at(-1)?.number ?? 0) + 1;
    order.lines.push({ number, at: new Date().toISOString(), machine, text });
    if (order.lines.length > LINES_KEPT) order.lines.shift();
  }
}
