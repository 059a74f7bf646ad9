import type { MendConflict, MendStep, MendWish } from '@mint-tally/core';

/** What is said of a frame before a mend is applied. */
export interface WordView {
  readonly pass: string;
  readonly frames: string;
  readonly message: string;
}

/** A pass as its frames stand now, and as they would stand. */
export interface LaneChange {
  readonly pass: string;
  readonly now: string;
  readonly then: string;
  /** What it comes to, such as “4 missing, then none”. */
  readonly says: string;
}

/** What would be done, as far as a page shows it. */
export interface PreviewView {
  readonly wish: MendWish;
  readonly says: string;
  /** Stands for the whole plan. */
  readonly seen: string;
  readonly steps: readonly MendStep[];
  readonly stepCount: number;
  /** Of them those that bring or make a file. */
  readonly writeCount: number;
  readonly conflicts: readonly MendConflict[];
  readonly conflictCount: number;
  /** Frames that are left out, and why. */
  readonly refused: readonly WordView[];
  /** What is to be known of those that are not. */
  readonly words: readonly WordView[];
  /** What is said of the whole. */
  readonly notes: readonly string[];
  /** Passes of which frames would stand otherwise; null where the shot is too large to say it at once. */
  readonly lanes: readonly LaneChange[] | null;
}

/** A mend as the ledger shows it. */
export interface LedgerView {
  readonly id: number;
  readonly says: string;
  readonly files: number;
  readonly at: string;
  readonly actor: string;
  readonly undoneAt: string | null;
  readonly undoneBy: string | null;
  /** Its journal, where it is the newest one that lies with the files and can be taken back; else null. */
  readonly undo: string | null;
}

/** What stands on the list of frames to render, and how far it has come. */
export interface ListView {
  readonly id: number;
  readonly pass: string;
  readonly frames: string;
  readonly reason: string;
  readonly at: string;
  readonly actor: string;
  readonly left: readonly { readonly pass: string; readonly frames: string }[];
  readonly leftCount: number;
  readonly backCount: number;
  /** Frames that came back and are to be looked at. */
  readonly odd: string;
}

/** What a mend has set aside. */
export interface KeptView {
  readonly mend: string;
  readonly says: string;
  readonly at: string;
  readonly files: readonly { readonly path: string; readonly bytes: number; readonly reason: string }[];
  readonly fileCount: number;
  readonly bytes: number;
  readonly goesAt: string;
  /** Whether somebody has set the day. */
  readonly isKeptOn: boolean;
}
