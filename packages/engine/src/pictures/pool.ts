import path from 'node:path';
import type { PixelValue } from '@mint-tally/core';
import pLimit, { type LimitFunction } from 'p-limit';
import { Piscina } from 'piscina';
import { servicesFolder } from '../config/project.ts';
import { MemoryBudget } from '../inspection/memory-budget.ts';
import { answerOf, type ToldError } from '../threads/told-error.ts';
import type { KnownFrame, PictureTask, PixelTask } from './read-picture.ts';
import type { SumAnswer, SumTask } from './read-sum.ts';

/** Worker threads that decode what somebody looks at, the first asked first. */
export class PicturePool {
  private readonly pool: Piscina<KnownFrame, unknown>;
  /** Waiting is done here: a task that a thread has begun can only be given up together with the thread. */
  private readonly limit: LimitFunction;

  /** @param memory bytes that all of them together may use */
  constructor(threads: number, memory: number) {
    this.limit = pLimit(threads);
    this.pool = new Piscina({
      filename: path.join(servicesFolder(), 'picture-worker.js'),
      minThreads: 0,
      maxThreads: threads,
      idleTimeout: 10_000,
      workerData: { budget: MemoryBudget.share(memory) },
    });
  }

  /**
   * The message of a picture (`readPictureMessage` reads it).
   *
   * @param signal given up by whoever asked: what has not begun is not begun
   * @throws MintError when there is no such picture; an AbortError when it was given up
   */
  async read(task: PictureTask, signal?: AbortSignal): Promise<Uint8Array<ArrayBuffer>> {
    return this.ask<Uint8Array<ArrayBuffer>>('picture', task, signal);
  }

  /** What every channel of a frame holds at a pixel. @throws as `read` does */
  async readPixel(task: PixelTask, signal?: AbortSignal): Promise<PixelValue[]> {
    return this.ask<PixelValue[]>('pixel', task, signal);
  }

  /** Where the lights of a frame do not sum to its beauty. @throws as `read` does */
  async readSum(task: SumTask, signal?: AbortSignal): Promise<SumAnswer> {
    return this.ask<SumAnswer>('sum', task, signal);
  }

  private ask<Answer extends object>(name: 'picture' | 'pixel' | 'sum', task: KnownFrame, signal?: AbortSignal): Promise<Answer> {
    return this.limit(async () => {
      signal?.throwIfAborted();
      return answerOf((await this.pool.run(task, { name })) as Answer | ToldError);
    });
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }
}
