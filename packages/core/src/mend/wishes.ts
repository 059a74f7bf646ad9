import * as z from 'zod';
import { formatFrameRange, FrameSet, parseFrameRange } from '../ranges/index.ts';
import { parseFrameRate } from '../timing/index.ts';
import { conversionSchema, sayConversion } from './recipes.ts';

const place = z.string().min(1).max(4096);
const name = z.string().min(1).max(200);

/** Frames in range notation; an empty text for none in particular. */
const framesSchema = z
  .string()
  .max(100_000)
  .default('')
  .transform((text, context): FrameSet => {
    if (text.trim() === '') return FrameSet.empty;
    try {
      return parseFrameRange(text);
    } catch (thrown) {
      context.addIssue({ code: 'custom', message: (thrown as Error).message });
      return z.NEVER;
    }
  })
  .transform((frames) => formatFrameRange(frames));

const fpsSchema = z
  .string()
  .max(20)
  .refine((text) => {
    try {
      parseFrameRate(text);
      return true;
    } catch {
      return false;
    }
  }, 'Frames a second are a number such as 25, 23.976 or 24000/1001.');

/** Names of passes; none stands for all. */
const passesSchema = z.array(name).max(1000).default([]);
/** Files that somebody gave up for others, where two stand for one frame. */
const asideSchema = z.array(place).max(1000).default([]);

/** What is to be mended, in the words of whoever asks; the files are worked out from it. */
export const mendWishSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('rename'), aside: asideSchema }),
  /** `frames` go besides what was not ordered: handles, a start that has not settled, the frame that a loop repeats. */
  z.object({ kind: z.literal('trim'), frames: framesSchema, passes: passesSchema }),
  z.object({ kind: z.literal('renumber'), by: z.number().int().min(-99_999_999).max(99_999_999), aside: asideSchema }),
  /** The files of two passes that lie under each other's names. */
  z.object({ kind: z.literal('swap'), passes: z.tuple([name, name]), aside: asideSchema }),
  /** Frames of another folder in place of these; of those that are missing or stopped where none are named. */
  z.object({ kind: z.literal('patch'), root: z.string().max(32), folder: z.string().max(2048), frames: framesSchema, passes: passesSchema }),
  /** Neighbours that stand in for frames that are missing; all that are where none are named. */
  z.object({ kind: z.literal('hold'), frames: framesSchema, passes: passesSchema }),
  z.object({ kind: z.literal('convert'), frames: framesSchema, passes: passesSchema, to: conversionSchema }),
  /** The same time at another frame rate: frames are dropped or doubled. */
  z.object({ kind: z.literal('conform'), fps: fpsSchema }),
  /** What a mend set aside, back to its place; all of it where no path is named. */
  z.object({ kind: z.literal('restore'), mend: z.string().min(1).max(64), paths: z.array(place).max(100_000).default([]), aside: asideSchema }),
]);
export type MendWish = z.output<typeof mendWishSchema>;
export type MendKind = MendWish['kind'];

const some = (passes: readonly string[]) => (passes.length === 0 ? '' : ` of ${passes.join(', ')}`);

/** What was asked for, in words. */
export function sayMend(wish: MendWish | { readonly kind: 'plan' }): string {
  switch (wish.kind) {
    case 'plan':
      return 'a plan by hand';
    case 'rename':
      return 'rename to the brief';
    case 'trim':
      return wish.frames === '' ? 'set aside what was not ordered' : `set aside ${wish.frames}${some(wish.passes)} and what was not ordered`;
    case 'renumber':
      return `renumber by ${wish.by}`;
    case 'swap':
      return `swap the names of ${wish.passes.join(' and ')}`;
    case 'patch':
      return `patch ${wish.frames || 'what is missing or stopped'}${some(wish.passes)} from ${wish.folder === '' ? wish.root : wish.folder}`;
    case 'hold':
      return `hold neighbours for ${wish.frames || 'missing frames'}${some(wish.passes)}`;
    case 'convert':
      return `convert ${wish.frames || 'all frames'}${some(wish.passes)} to ${sayConversion(wish.to)}`;
    case 'conform':
      return `conform to ${wish.fps} frames a second`;
    case 'restore':
      return `bring back what ${wish.mend.slice(0, 4)} set aside`;
  }
}
