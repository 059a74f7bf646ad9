import { randomBytes } from 'node:crypto';
import path from 'node:path';
import {
  acceptedGates,
  briefToHandOver,
  changedSince,
  composeNote,
  coversFinding,
  explainRefusal,
  isReadyForHandoff,
  sayWaivers,
  MintError,
  workOutEyes,
  workOutGates,
  workOutOrder,
  type Finding,
  type KeptAssay,
  type Changes,
  type Gate,
} from '@mint-tally/core';
import type { HeldFolder } from '@mint-tally/disk';
import {
  announcePackage,
  confirmPackage,
  findAnnounced,
  listSights,
  listWaivers,
  newestAssay,
  readAssay,
  readHolds,
  type Job,
  type Waiver,
} from '@mint-tally/store';
import { checkObject, findingObject } from '../check/report.ts';
import { findRoot, openForWriting } from '../files/roots.ts';
import { clearUnfinishedIn } from '../housekeeping/house.ts';
import { verifyWritten } from '../packaging/verify-bag.ts';
import { PackageError } from '../packaging/errors.ts';
import { holdsOf, packageParts } from '../packaging/parts.ts';
import { writePackage } from '../packaging/write-package.ts';
import { countShot, type ShotCount } from './count-shot.ts';
import type { Commit, JobControl } from './job-control.ts';
import type { JobTools } from './job-tools.ts';

/** Raised when a gate is still open at the moment of writing. */
export class NotReadyError extends MintError {
  constructor(gates: readonly Gate[], changes: Changes | null) {
    super('not-ready', `The package was not written. ${explainRefusal(gates, changes)}`, {
      remedy: 'Mend or waive what stands in the docket, close what a person closes, then write it again.',
    });
  }
}

type PackageRequest = Extract<Job['request'], { kind: 'package' }>;

/**
 * Writes a shot's package. The folder is counted once more first, so that what is handed over is
 * what was counted. The package is written down before it gets its name: when this engine or the
 * database falls between the two, the next try finds it there, verifies it and takes it for its own.
 * Gives what ends the job, or null when it was stopped.
 *
 * @throws MintError
 */
export async function packageShot(tools: JobTools, control: JobControl): Promise<Commit | null> {
  const request = control.job.request as PackageRequest;
  const { parent, name } = openForWriting(findRoot(tools.config.roots, request.root), request.folder);
  try {
    // What an earlier try of this job left is gone on with, but for a tar.
    await clearUnfinishedIn(tools.database, parent, request.wish.form === 'tar' ? control.job.id : null);
    const announced = parent.has(name) ? await findAnnounced(tools.database, control.job.shotId, request.root, request.folder) : null;
    return announced ? await adopt(control, parent, name, announced) : await write(tools, control, parent, name);
  } finally {
    parent.close();
  }
}

/** A package that got its name before anybody could note that it had. */
async function adopt(
  control: JobControl,
  parent: HeldFolder,
  name: string,
  announced: { id: number; manifestSha256: string; volumes: number },
): Promise<Commit | null> {
  const folder = path.join(parent.where(), name);
  const { form } = (control.job.request as PackageRequest).wish;
  const differs = await verifyWritten(
    parent.where(),
    name,
    { ...announced, form },
    () => control.stopReason !== null,
    (done, total) => control.report({ phase: 'verifying', done, total, bytesDone: done, bytesTotal: total }),
  );
  if (differs === undefined) return null;
  if (differs !== null) {
    throw new PackageError(
      'package-exists',
      `There is a folder ${name} already, and ${differs} in it is not as it was written.`,
      folder,
      'Give the package another name.',
    );
  }
  return async (inside) => {
    await confirmPackage(inside, announced.id);
    return { folder: (control.job.request as PackageRequest).folder };
  };
}

async function write(tools: JobTools, control: JobControl, parent: HeldFolder, name: string): Promise<Commit | null> {
  const request = control.job.request as PackageRequest;
  const { wish } = request;
  const count = await countShot(tools, control, { anew: true });
  if (!count) return null;
  const { waivers } = await listWaivers(tools.database, count.shot.id);
  const subjects = waivers.map((waiver) => waiver.subject);
  const newest = await newestAssay(tools.database, count.shot.id);
  const isAssayed = newest !== null && newest.content === count.content && newest.briefId === count.saved.id;
  const findings = [...count.result.tally.findings, ...(isAssayed ? newest.findings : [])];
  const isWaived = (finding: Finding) => subjects.some((subject) => coversFinding(subject, finding));
  const gates = workOutGates(
    findings,
    isWaived,
    acceptedGates(subjects, count.content),
    workOutEyes(count.result.order, count.result.contents!, await listSights(tools.database, count.shot.id)),
    isAssayed,
  );
  if (!isReadyForHandoff(gates)) {
    // The count that refuses is what the page shows from now on: both sides say the same.
    await control.record((inside) => count.save(inside));
    throw new NotReadyError(gates, count.result.changes);
  }
  const assay = isAssayed ? await readAssay(tools.database, count.shot.id) : null;
  const chosen = await choose(tools, count, wish);
  const facts = { brief: chosen.brief, findings, isWaived, isAssayed, vectors: assay?.vectors?.says ?? null };
  const parts = packageParts({
    ...{ brief: chosen.brief, counted: count.result.counted!, isWhole: chosen.isWhole, volumeSize: wish.volumeSize },
    group: `${count.shot.name} ${control.job.id}`,
    documents: {
      'tally.json': tallyDocument(count, gates, waivers),
      ...(assay ? { 'assay.json': assaySummary(assay, findings) } : {}),
      'note.md': wish.note.trim() === '' ? composeNote({ ...facts, waivers: sayWaivers(waivers, findings, count.content) }) : `${wish.note.trim()}\n`,
      ...(chosen.delta ? { 'delta.json': chosen.delta } : {}),
    },
    info: [
      ['Bag-Software-Agent', 'Mint Tally'],
      ['Bagging-Date', new Date().toISOString().slice(0, 10)],
      ['External-Identifier', count.shot.name],
      ...(count.shot.note === '' ? [] : [['External-Description', count.shot.note] as const]),
      ['Contact-Name', request.person],
    ],
  });
  let packageId = 0;
  const written = await writePackage({
    ...{ source: count.folder, parts, parent, name, form: wish.form, taking: wish.taking, sums: wish.sums },
    aside: `${control.job.id}-${randomBytes(4).toString('hex')}`,
    // An earlier try of this job, by an engine that fell or was stopped.
    isLeft: (aside) => aside.startsWith(`${control.job.id}-`),
    stopped: () => control.stopReason !== null,
    isKept: () => control.stopReason !== 'cancel',
    onProgress: (progress) => control.report({ phase: 'packing', ...progress }),
    async onWhole(bag) {
      packageId = await control.record(async (inside) => {
        const tallyId = await count.save(inside);
        const { root, folder, person } = request;
        return announcePackage(inside, count.shot.id, { tallyId, root, folder, ...bag, wish, volumes: parts.length, holds: chosen.holds }, person);
      });
    },
  });
  if (!written) return null;
  return async (inside) => {
    await confirmPackage(inside, packageId);
    return { folder: request.folder };
  };
}

/** What is handed over: of the shot what was chosen, and of that what is new where only that is wanted. */
async function choose({ database }: JobTools, count: ShotCount, wish: PackageRequest['wish']) {
  const brief = briefToHandOver(count.saved.brief, wish);
  const counted = count.result.counted!;
  const isAll = wish.passes.length === 0 && wish.range.trim() === '' && wish.withHandles;
  if (wish.since === null) return { brief, isWhole: isAll, delta: null, holds: holdsOf(brief, counted) };
  const before = await readHolds(database, count.shot.id, wish.since);
  if (!before)
    throw new PackageError(
      'nothing-new',
      'It is not known what the earlier package held.',
      String(wish.since),
      'Hand over the whole, or choose a newer package.',
    );
  const sums = new Map(counted.map(({ path: file, sha256 }) => [file, sha256]));
  const changes = changedSince(workOutOrder(brief), (file) => sums.get(file) ?? null, before);
  if (!changes.brief)
    throw new PackageError(
      'nothing-new',
      'Nothing has changed since the earlier package.',
      count.shot.name,
      'There is nothing to hand over; the earlier package is what the shot is.',
    );
  const holds = new Map([...before, ...holdsOf(brief, counted)]);
  for (const file of changes.gone) holds.delete(file);
  return { brief: changes.brief, isWhole: false, delta: { since: wish.since, unchanged: changes.unchanged, gone: changes.gone }, holds };
}

/** What was measured, frame by frame, and what was found. */
function assaySummary({ frames, vectors }: KeptAssay, findings: readonly Finding[]): unknown {
  return {
    frames: frames.map(({ pass, frame, noise, relativeNoise, temporalNoise, fireflies, meanLuminance }) => ({
      ...{ pass, frame, noise, relativeNoise, temporalNoise, fireflies, meanLuminance },
    })),
    findings: findings.filter(({ family }) => family === 'noise' || family === 'passes').map(findingObject),
    vectors,
  };
}

function tallyDocument(count: ShotCount, gates: readonly Gate[], waivers: readonly Waiver[]): unknown {
  return {
    ...checkObject(count.result.tally),
    level: count.result.tally.level,
    briefVersion: count.saved.version,
    gates: gates.map(({ name, state }) => ({ name, state })),
    waivers: waivers.map(({ subject, person, reason, createdAt }) => ({ subject, person, reason, at: createdAt.toISOString() })),
  };
}
