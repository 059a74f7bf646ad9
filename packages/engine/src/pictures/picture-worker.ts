import { MintError, type PixelValue } from '@mint-tally/core';
import { move, workerData } from 'piscina';
import { memoryNeeded } from '../inspection/inspect-file.ts';
import { MemoryBudget } from '../inspection/memory-budget.ts';
import { tellError, type ToldError } from '../threads/told-error.ts';
import { readSumPicture, type SumAnswer, type SumTask } from './read-sum.ts';
import { readPicture, readPixel, type KnownFrame, type PictureTask, type PixelTask } from './read-picture.ts';

const budget = new MemoryBudget((workerData as { readonly budget: SharedArrayBuffer }).budget);

/** A message for the screen, or why there is none. */
export async function picture(task: PictureTask): Promise<Uint8Array | ToldError> {
  // Handed over and not copied: a frame has many megabytes.
  return withMemory(task, () => move(readPicture(task)) as unknown as Uint8Array);
}

/** What every channel holds at a pixel, or why nobody knows. */
export async function pixel(task: PixelTask): Promise<PixelValue[] | ToldError> {
  return withMemory(task, () => readPixel(task));
}

/** Where the lights of a frame do not sum to its beauty, or why nobody knows. */
export async function sum(task: SumTask): Promise<SumAnswer | ToldError> {
  return withMemory(task, () => readSumPicture(task), task.lights);
}

async function withMemory<Result>(task: KnownFrame, read: () => Result | Promise<Result>, others: readonly KnownFrame[] = []): Promise<Result | ToldError> {
  try {
    const paths = new Set([task, ...others].map((file) => file.path));
    const needed = [...paths].reduce((all, one) => all + (memoryNeeded(task.folder, one)?.bytes ?? 0), 0);
    if (!budget.holds(needed))
      throw new MintError('too-large', `${task.path} would take more memory than is set for looking at pictures.`, { subject: task.path });
    const giveBack = await budget.take(needed);
    try {
      return await read();
    } finally {
      giveBack();
    }
  } catch (thrown) {
    return tellError(thrown);
  }
}
