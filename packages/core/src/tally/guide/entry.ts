import type { findingCodes, Family } from '../codes.ts';

/** What people should know of a finding. */
export interface Guide {
  /** What it takes to raise it, and what it shows. */
  readonly raised: string;
  /** Why a compositor cares. */
  readonly why: string;
  /** What to do about it. */
  readonly remedy: string;
  /** Entries of the brief that change it, besides `severities` and `checks.off`. */
  readonly setting?: string;
}

type Codes = typeof findingCodes;

/** One entry for each code of a family. */
export type GuideOf<Of extends Family> = Record<{ [Code in keyof Codes]: Codes[Code]['family'] extends Of ? Code : never }[keyof Codes], Guide>;

export const guide = (raised: string, why: string, remedy: string, setting?: string): Guide => ({
  raised,
  why,
  remedy,
  ...(setting === undefined ? {} : { setting }),
});
