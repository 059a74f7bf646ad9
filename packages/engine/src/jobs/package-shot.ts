import { randomBytes } from 'node:crypto';
import path from 'node:path';
import {
  acceptedGates,
  coversFinding,
  explainRefusal,
  isReadyForHandoff,
  MintError,
  workOutEyes,
  workOutGates,
  type Changes,
  type Gate,
} from '@mint-tally/core';
import type { HeldFolder } from '@mint-tally/disk';
import { announcePackage, confirmPackage, findAnnounced, listSights, listWaivers, newestAssay, type Job, type Waiver } from '@mint-tally/store';
import { checkObject } from '../check/report.ts';
import { findRoot, openForWriting } from '../files/roots.ts';
import { clearUnfinishedIn } from '../housekeeping/house.ts';
import { packageDocuments } from '../packaging/documents.ts';
import { verifyBag } from '../packaging/verify-bag.ts';
import { PackageError, writeBag } from '../packaging/write-bag.ts';
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
    await clearUnfinishedIn(tools.database, parent, control.job.id);
    const announced = parent.has(name) ? await findAnnounced(tools.database, control.job.shotId, request.root, request.folder) : null;
    return announced ? await adopt(control, parent, name, announced) : await write(tools, control, parent, name);
  } finally {
    parent.close();
  }
}

/** A package that got its name before anybody could note that it had. */
async function adopt(control: JobControl, parent: HeldFolder, name: string, announced: { id: number; manifestSha256: string }): Promise<Commit | null> {
  const folder = path.join(parent.where(), name);
  const differs = await verifyBag(
    folder,
    announced.manifestSha256,
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
  const count = await countShot(tools, control, { anew: true });
  if (!count) return null;
  const { waivers } = await listWaivers(tools.database, count.shot.id);
  const subjects = waivers.map((waiver) => waiver.subject);
  const assay = await newestAssay(tools.database, count.shot.id);
  const isAssayed = assay !== null && assay.content === count.content && assay.briefId === count.saved.id;
  const findings = [...count.result.tally.findings, ...(isAssayed ? assay.findings : [])];
  const gates = workOutGates(
    findings,
    (finding) => subjects.some((subject) => coversFinding(subject, finding)),
    acceptedGates(subjects, count.content),
    workOutEyes(count.result.order, count.result.contents!, await listSights(tools.database, count.shot.id)),
    isAssayed,
  );
  if (!isReadyForHandoff(gates)) {
    // The count that refuses is what the page shows from now on: both sides say the same.
    await control.record((inside) => count.save(inside));
    throw new NotReadyError(gates, count.result.changes);
  }
  let packageId = 0;
  const written = await writeBag({
    source: count.folder,
    // Counted anew, so that every checksum is at hand.
    files: count.result.counted!,
    parent,
    name,
    aside: `${control.job.id}-${randomBytes(4).toString('hex')}`,
    documents: packageDocuments(count.saved.brief, count.result.order, count.result.counted!, tallyDocument(count, gates, waivers)),
    info: [
      ['Bag-Software-Agent', 'Mint Tally'],
      ['Bagging-Date', new Date().toISOString().slice(0, 10)],
      ['External-Identifier', count.shot.name],
      ...(count.shot.note === '' ? [] : [['External-Description', count.shot.note] as const]),
      ['Contact-Name', request.person],
    ],
    stopped: () => control.stopReason !== null,
    onProgress: (progress) => control.report({ phase: 'copying', ...progress }),
    async onWhole(bag) {
      packageId = await control.record(async (inside) => {
        const tallyId = await count.save(inside);
        return announcePackage(inside, count.shot.id, { tallyId, root: request.root, folder: request.folder, ...bag }, request.person);
      });
    },
  });
  if (!written) return null;
  return async (inside) => {
    await confirmPackage(inside, packageId);
    return { folder: request.folder };
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
