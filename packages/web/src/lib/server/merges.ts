import { formatFrameRange, FrameSet, MintError, type MergeStep } from '@mint-tally/core';
import { findRoot, resolveInside, resolveWritable } from '@mint-tally/engine';
import { createMerge, findShot, listMergeSteps, mergeRequestSchema, newestMerge, requestJob, type Merge } from '@mint-tally/store';
import { z } from 'zod';
import type { MergeView } from '$lib/merge/merge-view';
import { actor, services } from './services';

/** Conflicts that a page is sent; a rule decides the others as well. */
const SHOWN_CONFLICTS = 200;

export const mergeControlSchema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('preview'), request: mergeRequestSchema }),
  z.object({ action: z.literal('run'), merge: z.number().int().positive() }),
  z.object({ action: z.literal('undo'), merge: z.number().int().positive() }),
]);

/** The shot's newest merge as the page shows it; null when there was none. */
export async function readMergeView(shotId: number): Promise<MergeView | null> {
  const { database } = services();
  const merge = await newestMerge(database, shotId);
  if (!merge) return null;
  const saved = await listMergeSteps(database, merge.id);
  const steps = saved.map(({ step }) => step);
  const conflicts = steps.filter(({ others }) => others.length > 0);
  const labels = labelsOf(merge);
  return {
    id: merge.id,
    state: merge.state,
    rule: merge.request.rule,
    way: merge.way,
    sources: merge.request.sources,
    from: labels.map((label, source) => comesFrom(label, source, steps)),
    same: byPass(steps.filter(({ same }) => same.length > 0)),
    conflicts: conflicts.slice(0, SHOWN_CONFLICTS),
    conflictCount: conflicts.length,
    renamed: steps.filter(({ renamed, from }) => renamed && from !== null).length,
    replaced: steps.filter(({ replaces }) => replaces).length,
    gaps: merge.findings?.gaps ?? [],
    strays: (merge.findings?.strays ?? []).map(({ source, path }) => `${labels[source]}: ${path}`),
    strayCount: merge.findings?.strayCount ?? 0,
    total: steps.filter(({ from }) => from !== null).length,
    done: saved.filter(({ state }) => state === 'done').length,
  };
}

function labelsOf({ request }: Merge): string[] {
  return ['the shot’s folder', ...request.sources.map(({ root, folder }) => (folder === '' ? root : folder.split('/').slice(-2).join('/')))];
}

function comesFrom(label: string, source: number, steps: readonly MergeStep[]): MergeView['from'][number] {
  const own = steps.filter(({ from }) => (from?.source ?? 0) === source);
  return { label, passes: byPass(own), files: own.length, bytes: own.reduce((sum, { size }) => sum + size, 0) };
}

function byPass(steps: readonly MergeStep[]): { pass: string; frames: string }[] {
  const passes = [...new Set(steps.map(({ pass }) => pass))];
  return passes.map((pass) => ({ pass, frames: formatFrameRange(FrameSet.of(steps.filter((step) => step.pass === pass).map(({ frame }) => frame))) }));
}

/** Previews a merge, carries it out or takes it back. @throws MintError */
export async function controlMerge(shotId: number, control: z.output<typeof mergeControlSchema>): Promise<void> {
  const { database, config } = services();
  const shot = await findShot(database, shotId);
  if (!shot) throw new MintError('not-found', 'There is no such shot.');
  if (control.action !== 'preview') {
    await requestJob(database, shotId, { kind: 'merge', merge: control.merge, action: control.action }, actor);
    return;
  }
  resolveWritable(findRoot(config.roots, shot.root), shot.folder);
  for (const { root, folder } of control.request.sources) resolveInside(findRoot(config.roots, root), folder);
  await database.transaction(async (inside) => {
    const id = await createMerge(inside, shotId, control.request, actor);
    await requestJob(inside, shotId, { kind: 'merge', merge: id, action: 'preview' }, actor);
  });
}
