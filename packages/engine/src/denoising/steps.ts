import path from 'node:path';
import { differenceAlong, type LeftIn } from '@mint-tally/core';
import { servicesFolder } from '../config/project.ts';
import { sharedMemoryOf } from '../threads/shared.ts';
import { answerOf } from '../threads/told-error.ts';
import type { FilteredPictures } from './companions.ts';
import type { StepAnswer, StepOrder } from './denoise-worker.ts';
import { filterOne, type FilteredPicture, type FilterTask } from './filter-one.ts';
import { finishOne, type DenoiseTask, type FinishedFrame } from './finish-one.ts';

/** The steps that a frame takes; each may be done on another thread. */
export interface Steps {
  /** Filters a frame by itself. */
  readonly filter: readonly [task: FilterTask, at: number];
  /** Steadies it by those around, and writes it. */
  readonly finish: readonly [task: DenoiseTask, at: number, pictures: FilteredPictures];
  /** Tells what its noise differs by from that of the frame before. */
  readonly differ: readonly [frame: LeftIn, before: LeftIn];
}

/** What comes of each. */
export interface Outcomes {
  readonly filter: FilteredPicture | null;
  readonly finish: FinishedFrame;
  readonly differ: number | null;
}

export type Step = { [Name in keyof Steps]: { readonly name: Name; readonly of: Steps[Name] } }[keyof Steps];

/** What came of a step, and the seconds that it took. */
export interface StepDone<Name extends keyof Steps = keyof Steps> {
  readonly outcome: Outcomes[Name];
  readonly seconds: number;
}

/** Does a step. @throws FileAccessError, NotRewrittenError */
export async function doStep(step: Step): Promise<StepDone> {
  const began = performance.now();
  const outcome = await outcomeOf(step);
  return { outcome, seconds: (performance.now() - began) / 1000 };
}

function outcomeOf(step: Step): Outcomes[keyof Steps] | Promise<FinishedFrame> {
  if (step.name === 'filter') return filterOne(...step.of);
  return step.name === 'finish' ? finishOne(...step.of) : differenceAlong(...step.of);
}

/** Who does the steps: some at a time, each on a thread of its own, or one after the other where they are asked for. */
export class Hands {
  readonly count: number;
  private readonly pool: { run(order: StepOrder): Promise<StepAnswer>; destroy(): Promise<void> } | null;
  private busy = 0;
  private readonly waiting: (() => void)[] = [];
  /**
   * Memory that nobody needs any more. It is used again, since what all threads see is given back only when each of them has
   * cleared up after itself, and the one that hands it round has hardly a reason to.
   */
  private readonly spare: SharedArrayBuffer[] = [];

  private constructor(count: number, pool: Hands['pool']) {
    [this.count, this.pool] = [count, pool];
  }

  static async of(count: number, isApart: boolean): Promise<Hands> {
    if (!isApart) return new Hands(1, null);
    const { Piscina } = await import('piscina');
    return new Hands(count, new Piscina<StepOrder, StepAnswer>({ filename: path.join(servicesFolder(), 'denoise-worker.js'), maxThreads: count }));
  }

  /** Does a step when its turn has come; null where it is not wanted any more by then. @throws MintError */
  async run<Name extends keyof Steps>(name: Name, isWanted: () => boolean, ...of: Steps[Name]): Promise<StepDone<Name> | null> {
    if (this.busy >= this.count) await new Promise<void>((turn) => this.waiting.push(turn));
    else this.busy++;
    try {
      if (!isWanted()) return null;
      const step = { name, of } as Step;
      if (!this.pool) return (await doStep(step)) as StepDone<Name>;
      const { done, spare } = answerOf(await this.pool.run({ step, spare: this.spare.splice(0, Math.ceil(this.spare.length / this.count)) }));
      this.spare.push(...spare);
      return done as StepDone<Name>;
    } finally {
      const next = this.waiting.shift();
      if (next) next();
      else this.busy--;
    }
  }

  /** Takes back the memory of what came of steps, when nobody needs it any more. */
  takeBack(outcome: unknown): void {
    this.spare.push(...sharedMemoryOf(outcome));
  }

  async close(): Promise<void> {
    await this.pool?.destroy();
  }
}
