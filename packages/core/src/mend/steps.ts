import * as z from 'zod';
import { mergeWays } from '../batch/index.ts';
import { recipeSchema } from './recipes.ts';
import { mendWishSchema, type MendWish } from './wishes.ts';

/** Folder below a shot's own in which is kept what a mend took out, with the journal of what it did. */
export const SET_ASIDE = '.mint-set-aside';

export const mendActions = ['rename', 'set-aside', 'write'] as const;

const place = z.string().min(1).max(4096);

/**
 * One change to one file. `rename` and `set-aside` move it; `write` brings a file from elsewhere, or makes one of it. Paths are
 * relative to the shot's folder; `from` of a `write` may be absolute, for a file of another folder.
 */
export const mendStepSchema = z.object({
  action: z.enum(mendActions),
  from: place,
  to: place,
  reason: z.string().max(2000).default(''),
  /** How a file is written; as a copy where it is not said. */
  way: z.enum(mergeWays).optional(),
  /** The file as it was previewed: when it has changed since, the mend stops there. */
  seen: z.object({ size: z.number(), modified: z.number().optional() }).optional(),
  /** What is made of the file on the way; its bytes are kept as they are where it is not said. */
  recipe: recipeSchema.optional(),
  /** The file stands in for a frame that is to come, and is no sound one. */
  stopgap: z.literal(true).optional(),
});
export type MendStep = Readonly<z.output<typeof mendStepSchema>>;

export const mendStepsSchema = z.object({ steps: z.array(mendStepSchema).max(2_000_000) });

/** What is to be mended: something that is worked out from the shot, or a plan that somebody wrote. */
export const anyWishSchema = z.union([mendWishSchema, z.object({ kind: z.literal('plan'), steps: mendStepsSchema.shape.steps })]);
export type AnyWish = MendWish | { readonly kind: 'plan'; readonly steps: readonly MendStep[] };

/** Why some of the changes cannot be made: nothing is, until somebody has decided. */
export interface MendConflict {
  readonly files: readonly string[];
  readonly message: string;
}

/** What is going to happen to which file, and why. */
export interface MendPlan {
  readonly steps: readonly MendStep[];
  readonly conflicts: readonly MendConflict[];
}

/** Where a file is kept that a mend takes out. */
export const asidePath = (mend: string, path: string) => `${SET_ASIDE}/${mend}/files/${path}`;

/** Whether a step takes a file of the shot away from where it is. */
export const isMove = ({ action }: Pick<MendStep, 'action'>) => action !== 'write';
