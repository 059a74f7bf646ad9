import path from 'node:path';
import { Piscina } from 'piscina';
import { servicesFolder } from '../config/project.ts';
import type { InspectionResult, InspectionTask } from './inspect-worker.ts';

/** Worker threads that look at files, a bounded number at a time. */
export class InspectionPool {
  private readonly pool: Piscina<InspectionTask, InspectionResult>;
  readonly threads: number;

  /** The threads run the bundled worker; see docs/architecture.md. */
  constructor(threads: number) {
    this.threads = threads;
    this.pool = new Piscina({
      filename: path.join(servicesFolder(), 'inspect-worker.js'),
      minThreads: 1,
      maxThreads: threads,
      idleTimeout: 10_000,
    });
  }

  /**
   * Looks at each file and hands over what it finds, in the order in which it is found. Only a few
   * more tasks than there are threads are under way, so memory does not grow with the shot.
   *
   * @param stopped asked before each file; when it says so, no further file is begun
   */
  async inspectAll(
    tasks: Iterable<InspectionTask>,
    onResult: (task: InspectionTask, result: InspectionResult) => void | Promise<void>,
    stopped: () => boolean = () => false,
  ): Promise<void> {
    const iterator = tasks[Symbol.iterator]();
    const lane = async () => {
      for (let next = iterator.next(); !next.done && !stopped(); next = iterator.next()) {
        await onResult(next.value, await this.pool.run(next.value));
      }
    };
    await Promise.all(Array.from({ length: this.threads * 2 }, lane));
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }
}
