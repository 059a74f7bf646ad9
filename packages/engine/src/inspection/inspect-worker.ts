import path from 'node:path';
import type { FileFacts } from '@mint-tally/core';
import { inspectFile } from './inspect-file.ts';
import type { Layer } from './layers.ts';
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
}

/** The worker threads' work: look at some files, and keep a small picture of each. */
export default async function inspectTasks(tasks: readonly InspectionTask[]): Promise<InspectionResult[]> {
  const results: InspectionResult[] = [];
  for (const task of tasks) results.push(await inspectTask(task));
  return results;
}

async function inspectTask(task: InspectionTask): Promise<InspectionResult> {
  const { facts, sha256, frame } = inspectFile(task.folder, task.path, task.level);
  if (frame && sha256 && task.proxies) {
    for (const layer of task.proxies.layers) await writeProxy(path.resolve(task.proxies.folder), sha256, layer, frame);
  }
  return { facts, sha256 };
}
