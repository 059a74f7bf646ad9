import * as z from 'zod';

/** Folder below a shot's own in which is kept what a mend took out, with the journal of what it did. */
export const SET_ASIDE = '.mint-set-aside';

export const mendActions = ['rename', 'set-aside', 'write'] as const;

const place = z.string().min(1).max(4096);

/**
 * One change to one file. `rename` and `set-aside` move it; `write` makes a copy of it. Paths are relative to the shot's folder;
 * `from` of a `write` may be absolute, for a file of another folder.
 */
export const mendStepSchema = z.object({
  action: z.enum(mendActions),
  from: place,
  to: place,
  reason: z.string().max(2000).default(''),
});
export type MendStep = Readonly<z.output<typeof mendStepSchema>>;

export const mendStepsSchema = z.object({ steps: z.array(mendStepSchema).max(2_000_000) });

/** What is to be mended: by the brief, or by a plan that somebody wrote. */
export const mendWishSchema = z.discriminatedUnion('kind', [
  /** `aside`: files that somebody gave up for others, where two stand for one frame. */
  z.object({ kind: z.literal('rename'), aside: z.array(place).max(1000).default([]) }),
  z.object({ kind: z.literal('trim') }),
  z.object({ kind: z.literal('renumber'), by: z.number().int().min(-99_999_999).max(99_999_999), aside: z.array(place).max(1000).default([]) }),
  z.object({ kind: z.literal('plan'), steps: mendStepsSchema.shape.steps }),
]);
export type MendWish = z.output<typeof mendWishSchema>;

/** What was asked for, in words. */
export const sayMend = (wish: MendWish) =>
  wish.kind === 'renumber'
    ? `renumber by ${wish.by}`
    : wish.kind === 'plan'
      ? 'a plan by hand'
      : wish.kind === 'rename'
        ? 'rename to the brief'
        : 'set aside what was not ordered';

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

/** Whether a step takes a file away from where it is. */
export const isMove = ({ action }: Pick<MendStep, 'action'>) => action !== 'write';
