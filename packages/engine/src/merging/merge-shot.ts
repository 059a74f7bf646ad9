import path from 'node:path';
import {
  claimForMerge,
  formatFrameRange,
  MintError,
  planMerge,
  planMergeSteps,
  readRenderNotes,
  workOutOrder,
  type MergeCandidate,
  type MergeFacts,
  type MergeSource,
} from '@mint-tally/core';
import {
  findMerge,
  findShot,
  listBatchFrames,
  listMergeSteps,
  newestBatch,
  newestBrief,
  noteMend,
  noteMendUndone,
  requestJob,
  savePreview,
  setMergeState,
  type Job,
  type Merge,
  type Shot,
} from '@mint-tally/store';
import { listFolder } from '../files/list-folder.ts';
import { findRoot, resolveInside, resolveWritable } from '../files/roots.ts';
import { inspectFile } from '../inspection/inspect-file.ts';
import type { Commit, JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { readMends } from '../mending/journal.ts';
import { applyPlan, undoMend } from '../mending/mend-folder.ts';
import { careOf } from '../mending/mend-shot.ts';
import { namePlan } from '../mending/plan-mend.ts';
import { asTransferError, hashFile } from '../files/transfer.ts';

const SHOWN_STRAYS = 100;

/** A merge with everything that it works on. */
interface Work {
  readonly merge: Merge;
  readonly shot: Shot;
  /** Real paths: the shot's own folder, then the sources in their order. */
  readonly folders: readonly string[];
}

/**
 * Previews a merge, carries it out or takes it back. Gives what ends the job, or null when it was
 * stopped; then it can be gone on with.
 *
 * @throws MintError
 */
export async function mergeShot(tools: JobTools, control: JobControl): Promise<Commit | null> {
  const request = control.job.request as Extract<Job['request'], { kind: 'merge' }>;
  const work = await openWork(tools, control.job.shotId, request.merge, request.action !== 'preview');
  if (request.action === 'preview') return previewMerge(tools, control, work);
  return request.action === 'run' ? runMerge(tools, control, work) : undoMerge(tools, control, work);
}

async function openWork({ database, config }: JobTools, shotId: number, mergeId: number, writes: boolean): Promise<Work> {
  const merge = await findMerge(database, mergeId);
  const shot = merge && (await findShot(database, merge.shotId));
  if (!merge || !shot || shot.id !== shotId) throw new MintError('no-merge', 'The merge is not there any more.');
  const root = findRoot(config.roots, shot.root);
  const own = writes ? resolveWritable(root, shot.folder) : resolveInside(root, shot.folder);
  const sources = merge.request.sources.map(({ root: name, folder }) => {
    const sourceRoot = findRoot(config.roots, name);
    // A file that is moved away is taken from its folder.
    return writes && merge.way === 'move' ? resolveWritable(sourceRoot, folder) : resolveInside(sourceRoot, folder);
  });
  const twice = [own, ...sources].find((folder, i, all) => all.indexOf(folder) !== i);
  if (twice)
    throw new MintError('same-folder', `${twice} is merged with itself.`, { subject: twice, remedy: 'Choose each folder once, and not the shot’s own.' });
  return { merge, shot, folders: [own, ...sources] };
}

async function previewMerge(tools: JobTools, control: JobControl, { merge, folders }: Work): Promise<Commit | null> {
  const saved = await newestBrief(tools.database, merge.shotId);
  if (!saved) throw new MintError('no-brief', 'The brief is not there any more.');
  const order = workOutOrder(saved.brief);
  const sources: MergeSource[] = [];
  for (const [i, folder] of folders.entries()) {
    const { files } = await listFolder(folder, { stats: true });
    // A source may lie inside the shot's folder; its files are not the shot's own then.
    const inner = folders.filter((other, at) => at !== i && other.startsWith(folder + path.sep)).map((other) => other.slice(folder.length + 1) + '/');
    sources.push({ name: String(i), files: files.filter(({ path: name, kind }) => kind === 'file' && !inner.some((prefix) => name.startsWith(prefix))) });
  }
  const { claims, strays } = claimForMerge(order, sources, Date.now());
  const shared = claims.flatMap(({ candidates }) => (candidates.length > 1 ? candidates : []));
  const facts = new Map<MergeCandidate, MergeFacts>();
  const bytesTotal = shared.reduce((sum, { size }) => sum + size, 0);
  let bytesDone = 0;
  for (const candidate of shared) {
    if (control.stopReason !== null) return null;
    facts.set(candidate, await readFacts(folders[candidate.source]!, candidate.path));
    bytesDone += candidate.size;
    control.report({ phase: 'comparing', done: facts.size, total: shared.length, bytesDone, bytesTotal });
  }
  const plan = planMerge(order, claims, (candidate) => facts.get(candidate)!, {
    rule: merge.request.rule,
    ownerOf: await readOwners(tools, merge, folders),
    byHand: new Map(merge.request.byHand.map(({ target, source, path: name }) => [target, { source, path: name }])),
  });
  const findings = {
    gaps: plan.gaps.map(({ pass, frames }) => ({ pass, frames: formatFrameRange(frames) })),
    strays: strays.slice(0, SHOWN_STRAYS),
    strayCount: strays.length,
  };
  return async (inside) => {
    await savePreview(inside, merge.id, plan.steps, findings);
    return { steps: plan.steps.length };
  };
}

async function readFacts(folder: string, name: string): Promise<MergeFacts> {
  const sha256 = await hashFile({ folder, path: name });
  if (sha256 === null) throw asTransferError({ code: 'ENOENT' }, path.join(folder, name), folder);
  const { facts } = inspectFile(folder, name, 'headers');
  return { sha256, samples: facts.header ? readRenderNotes(facts.header.metadata).samples : null };
}

/** Which source belongs to the machine that a frame was given to: a folder is known by bearing the machine's name. */
async function readOwners({ database }: JobTools, merge: Merge, folders: readonly string[]): Promise<(frame: number) => number | null> {
  const batch = await newestBatch(database, merge.shotId);
  const frames = batch ? await listBatchFrames(database, batch.id) : [];
  const machineOf = new Map(frames.map(({ frame, machine }) => [frame, machine.toLowerCase()]));
  return (frame) => {
    const machine = machineOf.get(frame);
    const index = machine ? folders.findIndex((folder, i) => i > 0 && path.basename(folder).toLowerCase().includes(machine)) : -1;
    return index < 0 ? null : index;
  };
}

/** What a merge is called among the mends of its folder. */
const saysOf = ({ request: { sources } }: Merge) => `merge of ${sources.length === 1 ? 'a folder' : `${sources.length} folders`}`;

async function runMerge({ database }: JobTools, control: JobControl, { merge, folders }: Work): Promise<Commit | null> {
  if (merge.state !== 'previewed' && merge.state !== 'running')
    throw new MintError('not-previewed', 'The merge has not been previewed, or is over.', { remedy: 'Preview it first.' });
  const [folder] = folders as [string, ...string[]];
  const steps = planMergeSteps(await listMergeSteps(database, merge.id), merge.way, folders);
  const makePlan = async () => namePlan(folder, (await listFolder(folder, { stats: true })).files, { steps, conflicts: [] }, Date.now());
  // Written down first: whoever goes on after a fall knows by it which of the journals is this merge's.
  const seen = merge.planSeen ?? (await makePlan()).seen;
  await setMergeState(database, merge.id, 'running', seen);
  const applied = await applyPlan({ folder, says: saysOf(merge), seen, now: Date.now(), actor: control.job.actor, makePlan }, careOf(control, 'merging'));
  if (!applied) return null;
  return async (inside) => {
    await setMergeState(inside, merge.id, 'done');
    if (applied.steps.length > 0) await noteMend(inside, merge.shotId, { journal: applied.id, says: applied.says, steps: applied.steps }, control.job.actor);
    await requestJob(inside, merge.shotId, { kind: 'count' }, control.job.actor);
  };
}

async function undoMerge({ database }: JobTools, control: JobControl, { merge, folders }: Work): Promise<Commit | null> {
  const [folder] = folders as [string, ...string[]];
  const journals = await readMends(folder);
  const own = merge.planSeen === null ? undefined : journals.findLast(({ head }) => head.seen === merge.planSeen);
  // It was taken back, and whoever did it fell before that was known.
  if (!own && merge.state === 'undoing') return async (inside) => setMergeState(inside, merge.id, 'undone');
  if (!own) throw new MintError('not-merged', 'Nothing has been merged that could be taken back.');
  if (own !== journals.at(-1)) {
    throw new MintError('later-mend', `“${journals.at(-1)!.head.says}” came after this merge.`, {
      remedy: 'Take that back first: mends are taken back the newest first.',
    });
  }
  await setMergeState(database, merge.id, 'undoing');
  await undoMend(folder, careOf(control, 'taking back'), own.head.id);
  if (control.stopReason !== null) return null;
  return async (inside) => {
    await setMergeState(inside, merge.id, 'undone');
    await noteMendUndone(inside, merge.shotId, own.head.id, control.job.actor);
    await requestJob(inside, merge.shotId, { kind: 'count' }, control.job.actor);
  };
}
