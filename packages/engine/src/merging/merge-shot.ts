import { mkdirSync, realpathSync } from 'node:fs';
import path from 'node:path';
import {
  claimForMerge,
  formatFrameRange,
  MintError,
  planMerge,
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
  requestJob,
  savePreview,
  setMergeState,
  type Job,
  type Merge,
  type SavedStep,
  type Shot,
} from '@mint-tally/store';
import { listFolder } from '../files/list-folder.ts';
import { findRoot, resolveInside, resolveWritable } from '../files/roots.ts';
import { inspectFile } from '../inspection/inspect-file.ts';
import type { Commit, JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { takeBack, takeStep, type StepFolders } from './steps.ts';
import { asTransferError, hashFile, TransferError } from '../files/transfer.ts';

const SHOWN_STRAYS = 100;

/** A merge with everything that it works on. */
interface Work {
  readonly merge: Merge;
  readonly shot: Shot;
  /** Real paths: the shot's own folder, then the sources in their order. */
  readonly folders: readonly string[];
  /** Where files go that make room, until the merge is taken back. */
  readonly aside: string;
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
  return { merge, shot, folders: [own, ...sources], aside: path.join(config.dataFolder, 'merges', String(merge.id)) };
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

/** What the steps work on, for a merge that is carried out or taken back by a job. */
function stepsOf({ merge, folders, aside }: Work, control: JobControl): StepFolders {
  mkdirSync(aside, { recursive: true });
  return { merge, folders, aside: realpathSync(aside), stillHeld: () => control.stillHeld() };
}

async function runMerge(tools: JobTools, control: JobControl, work: Work): Promise<Commit | null> {
  const { database } = tools;
  const { merge } = work;
  if (merge.state !== 'previewed' && merge.state !== 'running')
    throw new MintError('not-previewed', 'The merge has not been previewed, or is over.', { remedy: 'Preview it first.' });
  await setMergeState(database, merge.id, 'running');
  const steps = (await listMergeSteps(database, merge.id)).filter(({ step }) => step.from !== null);
  return walk(
    control,
    steps,
    'merging',
    ({ state }) => state === 'done',
    (saved) => takeStep(database, stepsOf(work, control), saved),
    async (inside) => {
      await setMergeState(inside, merge.id, 'done');
      await requestJob(inside, merge.shotId, { kind: 'count' }, control.job.actor);
    },
  );
}

async function undoMerge(tools: JobTools, control: JobControl, work: Work): Promise<Commit | null> {
  const { database } = tools;
  const { merge } = work;
  if (merge.state === 'previewing' || merge.state === 'previewed') throw new MintError('not-merged', 'Nothing has been merged that could be taken back.');
  if (merge.letGoAt !== null) {
    throw new MintError('let-go', `What the merge had set aside was let go on ${merge.letGoAt.toISOString().slice(0, 10)}.`, {
      remedy: 'It cannot be taken back any more; the keep time is set in mint-tally.config.json.',
    });
  }
  await setMergeState(database, merge.id, 'undoing');
  const steps = (await listMergeSteps(database, merge.id)).filter(({ state }) => state !== 'planned').reverse();
  return walk(
    control,
    steps,
    'undoing',
    ({ state }) => state === 'undone',
    (saved) => takeBack(database, stepsOf(work, control), saved),
    async (inside) => {
      await setMergeState(inside, merge.id, 'undone');
      await requestJob(inside, merge.shotId, { kind: 'count' }, control.job.actor);
    },
  );
}

/** Goes through steps one by one, those that are over left out; null when it was stopped between two. */
async function walk(
  control: JobControl,
  steps: readonly SavedStep[],
  phase: string,
  isOver: (step: SavedStep) => boolean,
  take: (step: SavedStep) => Promise<void>,
  end: Commit,
): Promise<Commit | null> {
  const bytesTotal = steps.reduce((sum, { step }) => sum + step.size, 0);
  let [done, bytesDone] = [0, 0];
  for (const saved of steps) {
    if (control.stopReason !== null) return null;
    if (!isOver(saved)) {
      await take(saved).catch((thrown: unknown) => {
        if (!(thrown instanceof MintError)) throw thrown;
        throw new TransferError(thrown.code, `Stopped after ${done} of ${steps.length} files. ${thrown.message}`, {
          subject: thrown.subject,
          remedy: thrown.remedy,
        });
      });
    }
    done++;
    bytesDone += saved.step.size;
    control.report({ phase, done, total: steps.length, bytesDone, bytesTotal });
  }
  return end;
}
