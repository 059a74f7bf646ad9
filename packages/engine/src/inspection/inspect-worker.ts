import path from 'node:path';
import type { FileFacts } from '@mint-tally/core';
import { accessError } from '@mint-tally/disk';
import { workerData } from 'piscina';
import { inspectFile, inspectWithoutPixels, memoryNeeded, type FileInspection } from './inspect-file.ts';
import type { Layer } from './layers.ts';
import { MemoryBudget } from './memory-budget.ts';
import { writeProxy } from './proxy.ts';

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

const budget = new MemoryBudget((workerData as { readonly budget: SharedArrayBuffer }).budget);

/** The worker threads' work: look at some files, and keep a small picture of each. */
export default async function inspectTasks(tasks: readonly InspectionTask[]): Promise<InspectionResult[]> {
  const results: InspectionResult[] = [];
  for (const task of tasks) results.push(await inspectTask(task));
  return results;
}

async function inspectTask(task: InspectionTask): Promise<InspectionResult> {
  const { folder, path: name, level } = task;
  if (level === 'headers') return { ...withoutFrame(inspectFile(folder, name, level)), pictureProblem: null };
  const needed = memoryNeeded(folder, name);
  // A file that cannot be asked says so when it is looked at.
  if (needed !== null && !budget.holds(needed.bytes)) return { ...inspectWithoutPixels(folder, name, needed, budget.total), pictureProblem: null };
  const giveBack = await budget.take(needed?.bytes ?? 0);
  try {
    const found = inspectFile(folder, name, level);
    return { ...withoutFrame(found), pictureProblem: await keepPictures(task, found) };
  } finally {
    giveBack();
  }
}

const withoutFrame = ({ facts, sha256 }: FileInspection) => ({ facts, sha256 });

/** Keeps a small picture of every layer. A picture that cannot be kept is no reason to know nothing of the frame: @returns why, or null */
async function keepPictures({ proxies }: InspectionTask, { frame, sha256 }: FileInspection): Promise<string | null> {
  if (!frame || !sha256 || !proxies) return null;
  try {
    for (const layer of proxies.layers) await writeProxy(path.resolve(proxies.folder), sha256, layer, frame);
    return null;
  } catch (thrown) {
    return accessError(thrown, proxies.folder).message;
  }
}
