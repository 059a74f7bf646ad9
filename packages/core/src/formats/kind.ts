import type { SampleDepth } from './depths.ts';

/** A way of packing pixels. */
export interface Packing {
  /** Share of the unpacked bytes that a rendered frame with some grain takes; a stated estimate, which a measured frame replaces. */
  readonly share: number;
  /** Depths whose values it changes; absent where it gives back what was written. */
  readonly changes?: readonly SampleDepth[];
}

/** What a format can hold, for advice before anything is rendered. */
export interface Holds {
  readonly depths: readonly SampleDepth[];
  /** Kinds of alpha that its pixels may have by its own rules. */
  readonly alpha: readonly ('straight' | 'premultiplied')[];
  /** By the names under which files report them. */
  readonly packings: Readonly<Record<string, Packing>>;
  /** The packing that writers use when they are told nothing. */
  readonly usual: string;
}

/** A kind of frame file: how it is called, and what it can hold. Knows nothing of bytes, so that a page may ask it. */
export interface FrameKind {
  readonly name: string;
  readonly extensions: readonly string[];
  readonly holds: Holds;
}
