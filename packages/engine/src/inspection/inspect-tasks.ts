import path from 'node:path';
import type { FileFacts } from '@mint-tally/core';
import { accessError } from '@mint-tally/disk';
import { inspectFile, inspectFileAlone, inspectWithoutPixels, memoryNeeded, type FileInspection } from './inspect-file.ts';
import type { Layer } from '../stills/layers.ts';
import type { MemoryBudget } from './memory-budget.ts';

/** One file to look at, as it is sent to a worker thread. */
export interface InspectionTask {
  /** Real path of the shot's folder. */
  readonly folder: string;
  readonly path: string;
  readonly level: 'headers' | 'full';
  /** Where proxies are kept, and of which layers; null to make none. */
  readonly proxies: { readonly folder: string; readonly layers: readonly Layer[] } | null;
}

export interface InspectionResult {
  readonly facts: FileFacts;
  readonly sha256: string | null;
  /** Why no small picture of it could be kept; null when there is one, or none was wanted. */
  readonly pictureProblem: string | null;
}

/**
 * Looks at some files, one after the other, and keeps a small picture of each.
 *
 * @param alone whether no other thread looks at files, so that a processor has nothing else to do
 */
export async function inspectTasks(tasks: readonly InspectionTask[], budget: MemoryBudget, alone = false): Promise<InspectionResult[]> {
  const results: InspectionResult[] = [];
  for (const task of tasks) results.push(await inspectTask(task, budget, alone));
  return results;
}

async function inspectTask(task: InspectionTask, budget: MemoryBudget, alone: boolean): Promise<InspectionResult> {
  const { folder, path: name, level } = task;
  if (level === 'headers') return { ...withoutFrame(inspectFile(folder, name, level)), pictureProblem: null };
  const needed = memoryNeeded(folder, name);
  // A file that cannot be asked says so when it is looked at.
  if (needed !== null && !budget.holds(needed.bytes)) return { ...inspectWithoutPixels(folder, name, needed, budget.total), pictureProblem: null };
  const giveBack = await budget.take(needed?.bytes ?? 0);
  try {
    const found = alone ? await inspectFileAlone(folder, name) : inspectFile(folder, name, level);
    return { ...withoutFrame(found), pictureProblem: await keepPictures(task, found) };
  } finally {
    giveBack();
  }
}

const withoutFrame = ({ facts, sha256 }: FileInspection) => ({ facts, sha256 });

/** Keeps a small picture of every layer. A picture that cannot be kept is no reason to know nothing of the frame: @returns why, or null */
export async function keepPictures({ proxies }: InspectionTask, { frame, sha256 }: FileInspection): Promise<string | null> {
  if (!frame || !sha256 || !proxies) return null;
  try {
    // Loaded where pictures are kept: what makes them takes longer to load than a frame to look at.
    const { writeProxy } = await import('../stills/proxy.ts');
    for (const layer of proxies.layers) await writeProxy(path.resolve(proxies.folder), sha256, layer, frame);
    return null;
  } catch (thrown) {
    return accessError(thrown, proxies.folder).message;
  }
}
