import type { MendConflict, MendStep, MendWish } from '@mint-tally/core';

/** What would be done, as far as a page shows it. */
export interface PreviewView {
  readonly wish: MendWish;
  readonly says: string;
  /** Stands for the whole plan. */
  readonly seen: string;
  readonly steps: readonly MendStep[];
  readonly stepCount: number;
  readonly conflicts: readonly MendConflict[];
  readonly conflictCount: number;
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
  /** It is the newest one whose journal lies with the files. */
  readonly canBeTakenBack: boolean;
}
