import { createHash } from 'node:crypto';
import { closeSync } from 'node:fs';
import path from 'node:path';
import { MintError, type MendMove, type MendStep } from '@mint-tally/core';
import { openInside } from '../files/roots.ts';
import { asTransferError, bring, hashFile, isThere, remove, removePartial, shown, transfer, TransferError, type Place } from '../files/transfer.ts';
import type { MendJournal, MendRecord } from './journal.ts';

/** Who looks after a mend while it goes on. */
export interface MendCare {
  /** Told after each move that is made or taken back. */
  readonly onMove: (done: number, total: number) => void;
  /** Asked before each move; when it says so, it is left as it is, to be gone on with or taken back. */
  readonly isStopped: () => boolean;
  /** Makes a file of others by a step's recipe. @throws MintError */
  readonly make?: (folder: string, step: MendStep) => Promise<Uint8Array>;
  /** How many files may be made at a time. */
  readonly makers?: number;
}

function placesOf(folder: string, { from, to }: MendMove): { from: Place; to: Place } {
  // A copy may be of a file of another folder.
  const source = path.isAbsolute(from) ? { folder: path.dirname(from), path: path.basename(from) } : { folder, path: from };
  return { from: source, to: { folder, path: to } };
}

/**
 * Makes the moves of a mend that have not been made. What is about to be done is written down first with the file's checksum, so
 * that whoever goes on after a fall knows by its content where it is.
 *
 * @returns whether all were made
 * @throws TransferError: what was done before stays done, and is written down
 */
export async function carryOut(folder: string, record: MendRecord, journal: MendJournal, care: MendCare): Promise<boolean> {
  const { head, begun, done } = record;
  const { moves, steps } = head;
  const made = new MadeAhead(folder, record, care);
  try {
    for (const [i, move] of moves.entries()) {
      if (care.isStopped()) return false;
      if (!done.has(i)) {
        await makeMove(folder, { move, i, step: steps[move.step]!, known: begun.get(i) ?? null }, journal, made).catch((thrown: unknown) => {
          if (!(thrown instanceof MintError)) throw thrown;
          const { code, message, subject, remedy } = thrown;
          throw new TransferError(code, `Stopped after ${i} of ${moves.length} moves. ${message}`, { subject, remedy, cause: thrown });
        });
      }
      care.onMove(i + 1, moves.length);
    }
  } finally {
    await made.settle();
  }
  journal.write({ kind: 'ended' });
  return true;
}

/** A move, with what is known of it. */
interface Move {
  readonly move: MendMove;
  /** Its place among the moves. */
  readonly i: number;
  readonly step: MendStep;
  /** Checksum of its file where it was begun before. */
  readonly known: string | null;
}

/** Files that are made a few moves ahead of where they are wanted, so that all processors have something to do. */
class MadeAhead {
  private readonly folder: string;
  private readonly record: MendRecord;
  private readonly care: MendCare;
  private readonly begun = new Map<number, Promise<Uint8Array>>();
  private next = 0;

  constructor(folder: string, record: MendRecord, care: MendCare) {
    this.folder = folder;
    this.record = record;
    this.care = care;
  }

  /** The file of a move. @throws MintError */
  async take(i: number): Promise<Uint8Array> {
    const { moves, steps } = this.record.head;
    this.next = Math.max(this.next, i);
    for (; this.next < moves.length && this.begun.size < (this.care.makers ?? 1); this.next++) {
      const move = moves[this.next]!;
      if (move.way !== 'make' || this.record.done.has(this.next)) continue;
      const { make } = this.care;
      if (!make) throw new MintError('nothing-makes', 'Nothing here makes files of others.', { remedy: 'Go on with it in the application.' });
      const making = make(this.folder, steps[move.step]!);
      // Whoever waits for it hears of it; until then it is nobody's.
      making.catch(() => undefined);
      this.begun.set(this.next, making);
    }
    const bytes = await this.begun.get(i)!;
    this.begun.delete(i);
    return bytes;
  }

  async settle(): Promise<void> {
    await Promise.allSettled(this.begun.values());
  }
}

async function makeMove(folder: string, { move, i, step, known }: Move, journal: MendJournal, made: MadeAhead): Promise<void> {
  const { from, to } = placesOf(folder, move);
  if (known !== null && (await hashFile(to)) === known) {
    // It came to its end before anybody wrote that down; between the two steps of a move the file bears both names.
    if (move.way === 'move' && (await hashFile(from)) === known) await remove(from);
  } else if (move.way === 'make') {
    checkUnchanged(from, step);
    const bytes = await made.take(i);
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    if (sha256 !== known) journal.write({ kind: 'begun', move: i, sha256 });
    await bring(to, bytes);
  } else {
    if (known === null && !isWaiting(move, step)) checkUnchanged(from, step);
    const sha256 = await hashFile(from);
    if (sha256 === null) throw asTransferError({ code: 'ENOENT' }, shown(from), shown(to));
    if (known !== null && sha256 !== known) throw changed(from, 'it was to be moved');
    if (known === null) journal.write({ kind: 'begun', move: i, sha256 });
    await transfer(from, to, move.way, sha256);
  }
  journal.write({ kind: 'done', move: i });
}

/** Whether the file of a move is one that this mend has put there to wait. */
const isWaiting = ({ from }: MendMove, step: MendStep) => from !== step.from;

/** @throws TransferError where a file is not the one that was previewed */
function checkUnchanged(place: Place, { seen }: MendStep): void {
  if (!seen) return;
  let stats;
  try {
    const opened = openInside(place.folder, place.path);
    closeSync(opened.descriptor);
    ({ stats } = opened);
  } catch (thrown) {
    throw asTransferError(thrown, shown(place), shown(place));
  }
  if (stats.size === seen.size && (seen.modified === undefined || Math.floor(stats.mtimeMs) === seen.modified)) return;
  throw changed(place, 'the preview');
}

/**
 * Takes back the moves of a mend, the last one first. Every file is known by its content, so that it does not matter where an
 * earlier try fell.
 *
 * @returns whether all were taken back
 * @throws TransferError: what was taken back before is written down, and is gone on with
 */
export async function takeBack(
  folder: string,
  { head, begun, done, undone, isUndoing }: MendRecord,
  journal: MendJournal,
  { onMove, isStopped }: MendCare,
): Promise<boolean> {
  if (!isUndoing) journal.write({ kind: 'undoing' });
  const wanted = head.moves.map((move, i) => ({ move, i, sha256: begun.get(i) })).filter(({ i, sha256 }) => sha256 !== undefined && !undone.has(i));
  for (const [count, { move, i, sha256 }] of wanted.reverse().entries()) {
    if (isStopped()) return false;
    if (!done.has(i)) await removePartial(placesOf(folder, move).to);
    await undoMove(folder, move, sha256!);
    journal.write({ kind: 'undone', move: i });
    onMove(count + 1, wanted.length);
  }
  return true;
}

async function undoMove(folder: string, move: MendMove, sha256: string): Promise<void> {
  const { from, to } = placesOf(folder, move);
  const there = await hashFile(to);
  if (there === null) {
    // A move that never came about, or is back already, has its file at its old place.
    if (move.way === 'move' && (await hashFile(from)) !== sha256) throw gone(to);
    return;
  }
  if (there !== sha256) {
    // Somebody else's file has that name since the move was taken back.
    if (move.way === 'move' && (await hashFile(from)) === sha256) return;
    throw changed(to, 'it was put there');
  }
  if (move.way !== 'move') return remove(to);
  if ((await hashFile(from)) === sha256) return remove(to);
  if (await isThere(from)) throw changed(from, 'its file was moved away');
  await transfer(to, from, 'move', sha256);
}

function changed(place: Place, since: string): TransferError {
  return new TransferError('changed-since', `${shown(place)} has changed since ${since}, and is left as it is.`, {
    subject: shown(place),
    remedy: 'Move it away if it may go, then try again.',
  });
}

function gone(place: Place): TransferError {
  return new TransferError('not-there', `${shown(place)} is not there any more, and its old place holds something else.`, {
    subject: shown(place),
    remedy: 'Bring it back from where it was taken to, then try again.',
  });
}
