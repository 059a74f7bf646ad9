import path from 'node:path';
import type { MendMove } from '@mint-tally/core';
import { asTransferError, hashFile, isThere, remove, shown, transfer, TransferError, type Place } from '../files/transfer.ts';
import type { MendJournal, MendRecord } from './journal.ts';

/** Who looks after a mend while it goes on. */
export interface MendCare {
  /** Told after each move that is made or taken back. */
  readonly onMove: (done: number, total: number) => void;
  /** Asked before each move; when it says so, it is left as it is, to be gone on with or taken back. */
  readonly isStopped: () => boolean;
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
export async function carryOut(folder: string, { head, begun, done }: MendRecord, journal: MendJournal, { onMove, isStopped }: MendCare): Promise<boolean> {
  const { moves } = head;
  for (const [i, move] of moves.entries()) {
    if (isStopped()) return false;
    if (!done.has(i)) await makeMove(folder, move, i, begun.get(i) ?? null, journal);
    onMove(i + 1, moves.length);
  }
  journal.write({ kind: 'ended' });
  return true;
}

async function makeMove(folder: string, move: MendMove, i: number, known: string | null, journal: MendJournal): Promise<void> {
  const { from, to } = placesOf(folder, move);
  if (known !== null && (await hashFile(to)) === known) {
    // It came to its end before anybody wrote that down; between the two steps of a move the file bears both names.
    if (move.way === 'move' && (await hashFile(from)) === known) await remove(from);
  } else {
    const sha256 = await hashFile(from);
    if (sha256 === null) throw asTransferError({ code: 'ENOENT' }, shown(from), shown(to));
    if (known !== null && sha256 !== known) throw changed(from, 'it was to be moved');
    if (known === null) journal.write({ kind: 'begun', move: i, sha256 });
    await transfer(from, to, move.way, sha256);
  }
  journal.write({ kind: 'done', move: i });
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
  { head, begun, undone, isUndoing }: MendRecord,
  journal: MendJournal,
  { onMove, isStopped }: MendCare,
): Promise<boolean> {
  if (!isUndoing) journal.write({ kind: 'undoing' });
  const wanted = head.moves.map((move, i) => ({ move, i, sha256: begun.get(i) })).filter(({ i, sha256 }) => sha256 !== undefined && !undone.has(i));
  for (const [count, { move, i, sha256 }] of wanted.reverse().entries()) {
    if (isStopped()) return false;
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
  if (move.way === 'copy') return remove(to);
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
