import { closeSync } from 'node:fs';
import { setStepState, type Merge, type Queryable, type SavedStep } from '@mint-tally/store';
import { openInside } from '../files/roots.ts';
import { asTransferError, hashFile, isThere, remove, shown, transfer, TransferError, type Place } from '../files/transfer.ts';

/** What the steps of a merge work on. */
export interface StepFolders {
  readonly merge: Merge;
  /** Real paths: the shot's own folder, then the sources in their order. */
  readonly folders: readonly string[];
  /** Where files go that make room, until the merge is taken back. */
  readonly aside: string;
  /** Called right before something is changed. @throws LeaseLostError when another engine may be at it */
  readonly stillHeld: () => void;
}

/** The three places of a step: where the file comes from, where it goes, and where what was there goes. */
function placesOf({ folders, aside }: StepFolders, { step }: SavedStep): { from: Place; to: Place; kept: Place } {
  const { source, path: name } = step.from!;
  return { from: { folder: folders[source]!, path: name }, to: { folder: folders[0]!, path: step.target }, kept: { folder: aside, path: step.target } };
}

/**
 * Brings one file to its place. What is about to be done is written down first, with the checksums of
 * the file that comes and of the one that makes room, so that whoever goes on after a fall knows by its
 * content which of them stands where.
 *
 * @throws TransferError
 */
export async function takeStep(database: Queryable, work: StepFolders, saved: SavedStep): Promise<void> {
  const { merge, stillHeld } = work;
  const { position, step } = saved;
  const { from, to, kept } = placesOf(work, saved);
  const there = step.replaces || saved.state === 'begun' ? await hashFile(to) : null;
  // A step that was begun may have come to its end before anybody wrote that down.
  if (saved.state === 'begun' && saved.sha256 !== null && there === saved.sha256) {
    if (merge.way === 'move' && shown(from) !== shown(to) && (await hashFile(from)) === saved.sha256) {
      stillHeld();
      await remove(from);
    }
    return setStepState(database, merge.id, position, 'done');
  }
  const sha256 = await hashFile(from);
  if (sha256 === null) throw asTransferError({ code: 'ENOENT' }, shown(from), shown(to));
  if (sizeOf(from) !== step.size) {
    throw new TransferError('changed-since-preview', `${shown(from)} has changed since the preview.`, {
      subject: shown(from),
      remedy: 'Preview the merge again.',
    });
  }
  await setStepState(database, merge.id, position, 'begun', { sha256, asideSha256: step.replaces ? there : null });
  stillHeld();
  if (step.replaces && there !== null) await setAside(to, kept, there);
  await transfer(from, to, merge.way, sha256);
  await setStepState(database, merge.id, position, 'done');
}

/** Puts a file out of the way. One that an earlier try has copied to another disk already is only taken away. */
async function setAside(file: Place, kept: Place, sha256: string): Promise<void> {
  const before = await hashFile(kept);
  if (before === null) return transfer(file, kept, 'move', sha256);
  if (before !== sha256) {
    throw new TransferError('file-in-the-way', `${shown(kept)} was set aside earlier, and is another file than ${shown(file)}.`, {
      subject: shown(kept),
      remedy: 'Look at both: one of them came while the merge was stopped. Move the one away that is not needed, then go on.',
    });
  }
  await remove(file);
}

/**
 * Takes one step back. Every file is known by its content, so that it does not matter where an earlier
 * try fell: what is back already is left, what is not is brought.
 *
 * @throws TransferError
 */
export async function takeBack(database: Queryable, work: StepFolders, saved: SavedStep): Promise<void> {
  const { merge, stillHeld } = work;
  const { position, step, sha256, asideSha256 } = saved;
  const { from, to, kept } = placesOf(work, saved);
  const [there, keptSha256] = [await hashFile(to), step.replaces ? await hashFile(kept) : null];
  const came = there !== null && there === sha256;
  // What was replaced stands at its place again, and nothing of it is kept any more.
  const isBack = there !== null && keptSha256 === null && (asideSha256 === null ? saved.state !== 'done' : there === asideSha256);
  if (there !== null && !came && !isBack) {
    if (there !== keptSha256) {
      throw new TransferError('changed-since-merge', `${shown(to)} has changed since it was merged, and is left as it is.`, {
        subject: shown(to),
        remedy: 'Move it away if it may go, then take the merge back again.',
      });
    }
    // It was brought back to another disk, and fell before its copy was let go.
    stillHeld();
    await remove(kept);
  } else if (came && !isBack) {
    stillHeld();
    if (merge.way === 'move' && (await hashFile(from)) !== sha256) await transfer(to, from, 'move', sha256!);
    else if (shown(from) !== shown(to)) await remove(to);
  }
  if (keptSha256 !== null && !(await isThere(to))) {
    stillHeld();
    await transfer(kept, to, 'move', keptSha256);
  }
  await setStepState(database, merge.id, position, 'undone');
}

function sizeOf({ folder, path: name }: Place): number {
  const { descriptor, stats } = openInside(folder, name);
  closeSync(descriptor);
  return stats.size;
}
