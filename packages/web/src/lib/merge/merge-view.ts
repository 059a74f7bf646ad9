import type { MergeRule, MergeStep, MergeWay } from '@mint-tally/core';

/** A merge as the page shows it. */
export interface MergeView {
  readonly id: number;
  readonly state: 'previewing' | 'previewed' | 'running' | 'done' | 'undoing' | 'undone';
  readonly rule: MergeRule;
  readonly way: MergeWay;
  /** The sources that were given, without the shot's own folder. */
  readonly sources: readonly { readonly root: string; readonly folder: string }[];
  /** What comes from each source, pass by pass; the shot's own folder stands first. */
  readonly from: readonly {
    readonly label: string;
    readonly passes: readonly { readonly pass: string; readonly frames: string }[];
    readonly files: number;
    readonly bytes: number;
  }[];
  /** Frames that several sources have with the same bytes. */
  readonly same: readonly { readonly pass: string; readonly frames: string }[];
  /** Frames that several sources have with different bytes; the first of them. */
  readonly conflicts: readonly MergeStep[];
  readonly conflictCount: number;
  readonly renamed: number;
  readonly replaced: number;
  readonly gaps: readonly { readonly pass: string; readonly frames: string }[];
  readonly strays: readonly string[];
  readonly strayCount: number;
  /** Files to bring, and those that have been brought. */
  readonly total: number;
  readonly done: number;
  /** Until when what it set aside is kept, in milliseconds since 1970; null when it set nothing aside. */
  readonly keptUntil: number | null;
  /** Whether it can still be taken back. */
  readonly isKept: boolean;
}
