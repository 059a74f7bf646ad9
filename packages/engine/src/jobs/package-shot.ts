import { acceptedGates, coversFinding, isReadyForHandoff, MintError, workOutGates, type Gate } from '@mint-tally/core';
import { listWaivers, savePackage, type Job, type Waiver } from '@mint-tally/store';
import { checkObject } from '../check/report.ts';
import { findRoot, resolveForWriting } from '../files/roots.ts';
import { writeBag } from '../packaging/write-bag.ts';
import { countShot, type ShotCount } from './count-shot.ts';
import type { Commit, JobControl } from './job-control.ts';
import type { JobTools } from './job-tools.ts';

/** Raised when a gate is still open at the moment of writing. */
export class NotReadyError extends MintError {
  constructor(gates: readonly Gate[]) {
    const open = gates.filter((gate) => gate.state === 'open' || gate.state === 'unmeasured').map((gate) => gate.name);
    super('not-ready', `The package was not written: ${open.join(', ')} ${open.length === 1 ? 'is' : 'are'} open.`, {
      remedy: 'Mend or accept what stands in the docket, then write it again.',
    });
  }
}

/**
 * Writes a shot's package. The folder is counted once more first, so that what is handed over is
 * what was counted. Gives what ends the job, or null when it was stopped.
 *
 * @throws MintError
 */
export async function packageShot(tools: JobTools, control: JobControl): Promise<Commit | null> {
  const request = control.job.request as Extract<Job['request'], { kind: 'package' }>;
  const target = resolveForWriting(findRoot(tools.config.roots, request.root), request.folder);
  const count = await countShot(tools, control, { anew: true });
  if (!count) return null;
  const waivers = await listWaivers(tools.database, count.shot.id);
  const subjects = waivers.map((waiver) => waiver.subject);
  const { findings } = count.result.tally;
  const gates = workOutGates(findings, (finding) => subjects.some((subject) => coversFinding(subject, finding)), acceptedGates(subjects, count.content));
  if (!isReadyForHandoff(gates)) throw new NotReadyError(gates);
  const written = await writeBag({
    source: count.folder,
    // Counted anew, so that every checksum is at hand.
    files: count.result.counted!,
    target,
    aside: String(control.job.id),
    documents: { 'brief.json': count.saved.brief, 'tally.json': tallyDocument(count, gates, waivers) },
    info: [
      ['Bag-Software-Agent', 'Mint Tally'],
      ['Bagging-Date', new Date().toISOString().slice(0, 10)],
      ['External-Identifier', count.shot.name],
      ...(count.shot.note === '' ? [] : [['External-Description', count.shot.note] as const]),
      ['Contact-Name', request.person],
    ],
    stopped: () => control.stopReason !== null,
    onProgress: (progress) => control.report({ phase: 'copying', ...progress }),
  });
  if (!written) return null;
  return async (inside) => {
    const tallyId = await count.save(inside);
    await savePackage(inside, count.shot.id, { tallyId, root: request.root, folder: request.folder, ...written }, request.person);
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
