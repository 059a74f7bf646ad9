import { MintError } from '@mint-tally/core';
import { move, workerData } from 'piscina';
import { memoryNeeded } from '../inspection/inspect-file.ts';
import { MemoryBudget } from '../inspection/memory-budget.ts';
import { tellError, type ToldError } from '../threads/told-error.ts';
import { readPicture, type PictureTask } from './read-picture.ts';

const budget = new MemoryBudget((workerData as { readonly budget: SharedArrayBuffer }).budget);

/** The worker threads' work: the message, or why there is none. */
export default async function picture(task: PictureTask): Promise<Uint8Array | ToldError> {
  try {
    const needed = memoryNeeded(task.folder, task.path)?.bytes ?? 0;
    if (!budget.holds(needed))
      throw new MintError('too-large', `${task.path} would take more memory than is set for looking at pictures.`, { subject: task.path });
    const giveBack = await budget.take(needed);
    try {
      // Handed over and not copied: a frame has many megabytes.
      return move(readPicture(task)) as unknown as Uint8Array;
    } finally {
      giveBack();
    }
  } catch (thrown) {
    return tellError(thrown);
  }
}
