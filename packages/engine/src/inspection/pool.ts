import path from 'node:path';
import { Piscina } from 'piscina';
import { usualMemory } from '../config/config.ts';
import { servicesFolder } from '../config/project.ts';
import { MemoryBudget } from './memory-budget.ts';
import type { InspectionResult, InspectionTask } from './inspect-worker.ts';

/** Worker threads that look at files, a bounded number at a time. */
export class InspectionPool {
  private readonly pool: Piscina<readonly InspectionTask[], InspectionResult[]>;
  readonly threads: number;

  /**
   * The threads run the bundled worker; see docs/architecture.md.
   *
   * @param memory bytes that all of them together may use for what they look into
   */
  constructor(threads: number, memory = usualMemory()) {
    this.threads = threads;
    this.pool = new Piscina({
      filename: path.join(servicesFolder(), 'inspect-worker.js'),
      minThreads: 1,
      maxThreads: threads,
      idleTimeout: 10_000,
      // While a proxy is packed, which other threads do, the next file is looked at.
      concurrentTasksPerWorker: 2,
      workerData: { budget: MemoryBudget.share(memory) },
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
    const bundles = bundle(tasks);
    const lane = async () => {
      for (let next = bundles.next(); !next.done && !stopped(); next = bundles.next()) {
        const results = await this.pool.run(next.value);
        for (const [i, task] of next.value.entries()) await onResult(task, results[i]);
      }
    };
    await Promise.all(Array.from({ length: this.threads * 2 }, lane));
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }
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
