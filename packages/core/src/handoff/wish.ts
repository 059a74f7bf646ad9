import * as z from 'zod';
import type { Brief } from '../brief/index.ts';
import { MintError } from '../errors.ts';
import { FrameSet, parseFrameRange } from '../ranges/index.ts';
import { narrowBrief } from './volumes.ts';

/** What somebody wants to hand over, and in what form. */
export const packageWishSchema = z.object({
  /** Names of passes; all where none is named. */
  passes: z.array(z.string().min(1).max(200)).max(1000).default([]),
  /** Frames in range notation; all where none are named. */
  range: z.string().max(100_000).default(''),
  withHandles: z.boolean().default(true),
  form: z.enum(['folder', 'tar']).default('folder'),
  /** Bytes of a volume at most; null for one package of all. */
  volumeSize: z.number().positive().max(1e15).nullable().default(null),
  /** How the frames are taken: copied, as copies that share their blocks, or as further names of the same files. */
  taking: z.enum(['copy', 'clone', 'link']).default('copy'),
  /** Checksums besides SHA-256. */
  sums: z
    .array(z.enum(['sha512', 'xxh64']))
    .max(2)
    .default([]),
  /** Number of an earlier package: only what has changed since goes in. */
  since: z.number().int().positive().nullable().default(null),
  /** Note to the compositor as it was edited; as it is put together where it is empty. */
  note: z.string().max(20_000).default(''),
});
export type PackageWish = z.output<typeof packageWishSchema>;

/** Raised when nothing is left of what was to be handed over. */
export class NothingChosenError extends MintError {
  constructor(what: string) {
    super('nothing-chosen', `Nothing is left to hand over: ${what}.`, { remedy: 'Choose other passes or frames.' });
  }
}

/** The brief of what is handed over. @throws RangeNotationError, NothingChosenError */
export function briefToHandOver(brief: Brief, { passes, range, withHandles }: Pick<PackageWish, 'passes' | 'range' | 'withHandles'>): Brief {
  const unknown = passes.find((name) => !brief.passes.some((pass) => pass.name === name));
  if (unknown !== undefined) throw new NothingChosenError(`the brief orders no pass ${unknown}`);
  const ordered = parseFrameRange(brief.range);
  const named = range.trim() === '' ? ordered : parseFrameRange(range);
  const frames = withHandles ? named : named.intersection(cutOf(ordered, brief.handles));
  if (frames.intersection(ordered).isEmpty) throw new NothingChosenError(`the brief orders none of ${String(frames) || range}`);
  const narrowed = narrowBrief(brief, passes.length === 0 ? null : passes, frames.intersection(ordered).size === ordered.size ? null : frames);
  if (narrowed.passes.length === 0) throw new NothingChosenError('the passes have none of the frames');
  return narrowed;
}

/** The frames between the handles. */
function cutOf(ordered: FrameSet, handles: Brief['handles']): FrameSet {
  const numbers = [...ordered];
  return handles ? FrameSet.of(numbers.slice(handles[0], numbers.length - handles[1])) : ordered;
}
