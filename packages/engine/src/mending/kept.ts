import { lstat, readdir, rm } from 'node:fs/promises';
import path from 'node:path';
import { asidePath, MintError, SET_ASIDE, type MendStep } from '@mint-tally/core';
import { MendJournal, readMends, type MendRecord } from './journal.ts';
import { holdingMends } from './lock.ts';

/** A file that a mend took out, and that is still there. */
export interface KeptFile {
  /** Where it was, relative to the shot's folder. */
  readonly path: string;
  readonly bytes: number;
  /** Why it was taken out. */
  readonly reason: string;
}

/** What a mend has set aside and still keeps. */
export interface KeptMend {
  readonly mend: MendRecord;
  readonly files: readonly KeptFile[];
  readonly bytes: number;
}

/** What is kept in a folder's set-aside, the newest mend first; mends that keep nothing are left out. @throws JournalError */
export async function keptIn(folder: string): Promise<KeptMend[]> {
  const kept: KeptMend[] = [];
  for (const mend of (await readMends(folder)).reverse()) {
    const set = mend.head.steps.filter(({ action }) => action === 'set-aside');
    if (set.length === 0 || mend.letGoAt !== null) continue;
    const files = (await Promise.all(set.map((step) => keptFile(folder, mend, step)))).filter((file) => file !== null);
    if (files.length > 0) kept.push({ mend, files, bytes: files.reduce((sum, { bytes }) => sum + bytes, 0) });
  }
  return kept;
}

async function keptFile(folder: string, { head: { id } }: MendRecord, { from, reason }: MendStep): Promise<KeptFile | null> {
  const stats = await lstat(path.join(folder, asidePath(id, from))).catch(() => null);
  return stats?.isFile() ? { path: from, bytes: stats.size, reason } : null;
}

/** Until when a mend keeps what it set aside, in milliseconds since 1970. @param days that are usual */
export function goesAt({ head, keepUntil }: MendRecord, days: number): number {
  return keepUntil === null ? Date.parse(head.at) + days * 86_400_000 : Date.parse(keepUntil);
}

/** Has what a mend set aside kept until then; as long as is usual with null. @throws MendHeldError, MintError */
export function keepAside(folder: string, id: string, until: Date | null): Promise<void> {
  return holdingMends(folder, async () => {
    await needMend(folder, id);
    inJournal(folder, id, (journal) => journal.write({ kind: 'keep', until: until?.toISOString() ?? null }));
  });
}

/**
 * Takes away what a mend set aside, for good; its journal stays and says so. What was broken off in the middle is left: its files
 * may be the only ones.
 *
 * @returns how much went
 * @throws MendHeldError, MintError
 */
export function letGo(folder: string, id: string, now: Date): Promise<{ files: number; bytes: number }> {
  return holdingMends(folder, async () => {
    const mend = await needMend(folder, id);
    if (!mend.isEnded || mend.isUndoing) {
      throw new MintError('mend-unfinished', `“${mend.head.says}” was broken off in the middle: what it set aside is kept.`, {
        subject: folder,
        remedy: 'Go on with it, or take it back.',
      });
    }
    const kept = (await keptIn(folder)).find((other) => other.mend.head.id === id);
    if (!kept) return { files: 0, bytes: 0 };
    // Said first: a mend that cannot be taken back any more must not look as if it could.
    inJournal(folder, id, (journal) => journal.write({ kind: 'let-go', at: now.toISOString() }));
    for (const name of await readdir(path.join(folder, SET_ASIDE, id)))
      if (name === 'files') await rm(path.join(folder, SET_ASIDE, id, name), { recursive: true });
    return { files: kept.files.length, bytes: kept.bytes };
  });
}

async function needMend(folder: string, id: string): Promise<MendRecord> {
  const mend = (await readMends(folder)).find(({ head }) => head.id === id);
  if (!mend) throw new MintError('no-mend', `There is no mend ${id} in this folder any more.`, { subject: folder, remedy: 'Reload the page.' });
  return mend;
}

function inJournal(folder: string, id: string, work: (journal: MendJournal) => void): void {
  const journal = MendJournal.reopen(folder, id);
  try {
    work(journal);
  } finally {
    journal.close();
  }
}
