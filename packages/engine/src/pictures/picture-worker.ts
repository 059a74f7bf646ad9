import { MintError, type PixelValue } from '@mint-tally/core';
import { move, workerData } from 'piscina';
import { memoryNeeded } from '../inspection/inspect-file.ts';
import { MemoryBudget } from '../inspection/memory-budget.ts';
import { tellError, type ToldError } from '../threads/told-error.ts';
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

async function withMemory<Result>(task: KnownFrame, read: () => Result): Promise<Result | ToldError> {
  try {
    const needed = memoryNeeded(task.folder, task.path)?.bytes ?? 0;
    if (!budget.holds(needed))
      throw new MintError('too-large', `${task.path} would take more memory than is set for looking at pictures.`, { subject: task.path });
    const giveBack = await budget.take(needed);
    try {
      return read();
    } finally {
      giveBack();
    }
  } catch (thrown) {
    return tellError(thrown);
  }
}
