import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { formatFrameRange, FrameSet, MintError, workOutOrder, type MergeStep } from '@mint-tally/core';
import { findRoot, goesAt, layerOfPass, proxyPath, readMends, resolveInside, resolveWritable, type MendRecord } from '@mint-tally/engine';
import { createMerge, findMerge, findShot, listMergeSteps, newestBrief, newestMerge, requestJob, type Merge } from '@mint-tally/store';
import type * as z from 'zod';
import type { mergeControlSchema } from '$lib/api/merge-control';
import type { MergeView } from '$lib/merge/merge-view';
import { actor, services } from './services';

/** Conflicts that a page is sent; a rule decides the others as well. */
const SHOWN_CONFLICTS = 200;

/** The shot's newest merge as the page shows it; null when there was none. */
export async function readMergeView(shotId: number): Promise<MergeView | null> {
  const { database } = services();
  const merge = await newestMerge(database, shotId);
  if (!merge) return null;
  const [steps, journal] = await Promise.all([listMergeSteps(database, merge.id), journalOf(shotId, merge)]);
  const conflicts = steps.filter(({ others }) => others.length > 0);
  const labels = labelsOf(merge);
  return {
    id: merge.id,
    // What was taken back from the ledger is taken back.
    state: merge.state === 'done' && merge.planSeen !== null && journal === null ? 'undone' : merge.state,
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
    strays: (merge.findings?.strays ?? []).map(({ source, path: name }) => `${labels[source]}: ${name}`),
    strayCount: merge.findings?.strayCount ?? 0,
    total: steps.filter(({ from }) => from !== null).length,
    done: journal ? broughtBy(journal) : merge.state === 'done' ? steps.filter(({ from }) => from !== null).length : 0,
    keptUntil: journal && steps.some(({ replaces }) => replaces) ? goesAt(journal, services().config.keep.setAside) : null,
    isKept: journal !== null && journal.letGoAt === null,
  };
}

/** The journal of a merge, which lies with the files; null where there is none, or nobody could look. */
async function journalOf(shotId: number, { planSeen }: Merge): Promise<MendRecord | null> {
  const { database, config } = services();
  const shot = planSeen === null ? null : await findShot(database, shotId);
  if (!shot) return null;
  const mends = await readMends(resolveInside(findRoot(config.roots, shot.root), shot.folder));
  return mends.findLast(({ head }) => head.seen === planSeen) ?? null;
}

/** Files that a mend has brought so far. */
function broughtBy({ head, done, undone }: MendRecord): number {
  return head.moves.filter(({ to, step }, i) => done.has(i) && !undone.has(i) && head.steps[step]!.action === 'write' && to === head.steps[step]!.to).length;
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

/**
 * The picture of a file that takes part in the shot's newest merge, as WebP.
 *
 * @param source 0 for the shot's own folder
 * @throws MintError when there is no such file, or it shows nothing
 */
export async function readMergePicture(shotId: number, pass: string, source: number, name: string): Promise<Uint8Array<ArrayBuffer>> {
  const { database, config, pool } = services();
  const [shot, saved, merge] = await Promise.all([findShot(database, shotId), newestBrief(database, shotId), newestMerge(database, shotId)]);
  const place = source === 0 ? shot : merge?.request.sources[source - 1];
  const order = saved && workOutOrder(saved.brief);
  const index = order?.passes.findIndex((ordered) => ordered.pass.name === pass) ?? -1;
  if (!place || !order || index < 0) throw new MintError('not-found', 'There is no such file.');
  const proxies = path.join(config.dataFolder, 'proxies');
  const layer = layerOfPass(order, index);
  let sha256: string | null = null;
  await pool.inspectAll(
    [{ folder: resolveInside(findRoot(config.roots, place.root), place.folder), path: name, level: 'full', proxies: { folder: proxies, layers: [layer] } }],
    (_, result) => {
      sha256 = result.sha256;
    },
  );
  const file = sha256 === null ? null : proxyPath(proxies, sha256, layer);
  if (file === null || !existsSync(file)) throw new MintError('not-found', `${name} shows nothing.`, { subject: name });
  return new Uint8Array(await readFile(file));
}

/** Previews a merge, carries it out or takes it back. @throws MintError */
export async function controlMerge(shotId: number, control: z.output<typeof mergeControlSchema>): Promise<void> {
  const { database, config } = services();
  const shot = await findShot(database, shotId);
  if (!shot) throw new MintError('not-found', 'There is no such shot.');
  if (control.action !== 'preview') {
    const merge = await findMerge(database, control.merge);
    if (merge?.shotId !== shotId) throw new MintError('not-found', 'The shot has no such merge.', { remedy: 'Reload the page.' });
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
