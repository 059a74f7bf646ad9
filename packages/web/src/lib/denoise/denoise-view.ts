import type { DenoiseFigures, FrameCount, Rectangle } from '@mint-tally/core';

/** What a test of some strengths has come to so far. */
export interface TestView {
  readonly id: number;
  readonly pass: string;
  readonly frames: FrameCount;
  readonly range: string;
  readonly frameCount: number;
  readonly region: Rectangle | null;
  readonly createdAt: string;
  readonly strengths: readonly TriedStrength[];
}

export interface TriedStrength {
  readonly strength: number;
  /** Null until it has been tried. */
  readonly figures: DenoiseFigures | null;
  /** For the whole range of the pass; null where it cannot be told. */
  readonly secondsForRange: number | null;
}

/** How far the newest range has come. */
export interface RangeView {
  readonly id: number;
  readonly pass: string;
  readonly target: string;
  readonly strength: number;
  readonly frames: FrameCount;
  readonly range: string;
  readonly done: number;
  readonly total: number;
  readonly outcome: 'done' | 'stopped' | null;
  /** Frames that are written, and those of them that the means are of. */
  readonly written: number;
  readonly told: number;
  readonly noiseBefore: number | null;
  readonly noise: number | null;
  readonly temporalBefore: number | null;
  readonly temporalNoise: number | null;
  readonly missing: string;
  readonly unreadable: string;
  readonly holes: number;
  readonly lacking: readonly string[];
  /** Lights that go along: what becomes of each, and the frames in which it could not. */
  readonly lights: readonly { readonly pass: string; readonly target: string; readonly missing: string }[];
  /** What is not sound of its results by the newest count, or made of earlier originals; and the frames of that which have files: nothing is written over these. */
  readonly toMakeAgain: readonly { readonly name: string; readonly frames: string; readonly inTheWay: string }[];
}

/** Where the result of a pass would go. */
export interface TargetView {
  readonly pass: string;
  readonly name: string;
}

/** A light that can go along with a pass, and whether it lives in its files. */
export interface LightView {
  readonly pass: string;
  readonly isInside: boolean;
}

/** What tells one way in which a pass is done from another. @param inside lights that go along in its files, which are others by that */
export const wayOf = (strength: number, frames: number, inside: readonly string[] = []) =>
  `${strength} ${frames}${inside.length === 0 ? '' : ` with ${inside.join(', ')}`}`;

/** A strength as people say it: middle, or 1.4. */
export function sayStrength(strength: number, names: Readonly<Record<string, number>>): string {
  return Object.entries(names).find(([, value]) => value === strength)?.[0] ?? String(strength);
}
