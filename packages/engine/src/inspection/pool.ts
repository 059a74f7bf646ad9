import path from 'node:path';
import type { Piscina } from 'piscina';
import { usualMemory } from '../config/config.ts';
import { servicesFolder } from '../config/project.ts';
import { inspectTasks, type InspectionResult, type InspectionTask } from './inspect-tasks.ts';
import { MemoryBudget } from './memory-budget.ts';

/** Worker threads that look at files, a bounded number at a time. */
export class InspectionPool {
  private started: Promise<Piscina<readonly InspectionTask[], InspectionResult[]>> | null = null;
  readonly threads: number;
  private readonly shared: SharedArrayBuffer;
  private readonly fewest: number;

  /**
   * The threads run the bundled worker; see docs/architecture.md.
   *
   * @param memory bytes that all of them together may use for what they look into
   * @param fewest fewer files than this are looked at by whoever asks: a thread takes longer to begin than a file to be
   *   looked at. Not where anybody else waits for this thread.
   */
  constructor(threads: number, memory = usualMemory(), fewest = 0) {
    this.threads = threads;
    this.shared = MemoryBudget.share(memory);
    this.fewest = fewest;
  }

  /** The threads, begun when they are first needed. */
  private async start(): Promise<Piscina<readonly InspectionTask[], InspectionResult[]>> {
    const { Piscina } = await import('piscina');
    return new Piscina({
      filename: path.join(servicesFolder(), 'inspect-worker.js'),
      minThreads: 1,
      maxThreads: this.threads,
      idleTimeout: 10_000,
      // While a proxy is packed, which other threads do, the next file is looked at.
      concurrentTasksPerWorker: 2,
      workerData: { budget: this.shared },
    });
  }

  /**
   * Looks at each file and hands over what it finds, in the order in which it is found. Only a few
   * more tasks than there are threads are under way, so memory does not grow with the shot.
   *
   * @param stopped asked before each file, or bundle of headers; when it says so, nothing further is begun
   */
  async inspectAll(
    tasks: Iterable<InspectionTask>,
    onResult: (task: InspectionTask, result: InspectionResult) => void | Promise<void>,
    stopped: () => boolean = () => false,
  ): Promise<void> {
    const [first, rest] = takeFirst(tasks, this.fewest);
    if (rest === null) {
      const budget = new MemoryBudget(this.shared);
      for (const task of first) if (!stopped()) await onResult(task, (await inspectTasks([task], budget, true))[0]!);
      return;
    }
    const pool = await (this.started ??= this.start());
    const bundles = bundle(rest);
    const lane = async () => {
      for (let next = bundles.next(); !next.done && !stopped(); next = bundles.next()) {
        const results = await pool.run(next.value);
        for (const [i, task] of next.value.entries()) await onResult(task, results[i]!);
      }
    };
    await Promise.all(Array.from({ length: this.threads * 2 }, lane));
  }

  async close(): Promise<void> {
    await (await this.started)?.destroy();
  }
}

/** The tasks when there are fewer than so many, or all of them to be gone through. */
function takeFirst(tasks: Iterable<InspectionTask>, fewest: number): [first: InspectionTask[], rest: Iterable<InspectionTask> | null] {
  if (fewest === 0) return [[], tasks];
  const first: InspectionTask[] = [];
  const iterator = tasks[Symbol.iterator]();
  for (let next = iterator.next(); ; next = iterator.next()) {
    if (next.done) return [first, null];
    first.push(next.value);
    if (first.length === fewest) break;
  }
  return [[], chain(first, iterator)];
}

function* chain(first: readonly InspectionTask[], iterator: Iterator<InspectionTask>): Generator<InspectionTask, undefined> {
  yield* first;
  for (let next = iterator.next(); !next.done; next = iterator.next()) yield next.value;
}

/** The way to a thread and back takes as long as a header: so many are sent at once. */
const HEADERS_AT_ONCE = 32;

/** Bundles tasks for the threads: headers by the dozen, whole files one by one. */
function* bundle(tasks: Iterable<InspectionTask>): Generator<InspectionTask[], undefined> {
  let waiting: InspectionTask[] = [];
  for (const task of tasks) {
    waiting.push(task);
    if (task.level === 'full' || waiting.length === HEADERS_AT_ONCE) {
      yield waiting;
      waiting = [];
    }
  }
  if (waiting.length > 0) yield waiting;
}
