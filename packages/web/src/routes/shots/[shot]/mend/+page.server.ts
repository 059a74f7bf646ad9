import { mendWishSchema, type MendWish } from '@mint-tally/core';
import { requestJob } from '@mint-tally/store';
import { fail } from '@sveltejs/kit';
import * as z from 'zod';
import { shotNumber, told } from '$lib/server/errors';
import { readMendPage } from '$lib/server/mends';
import { actor, services } from '$lib/server/services';
import { waiverActions } from '$lib/server/shot-actions';
import type { Actions, PageServerLoad } from './$types';

/** What an address asks to be previewed: `?do=rename`, `?do=trim`, or `?do=renumber&by=1000`; with `aside=` for each file that was given up for another. */
function wishOf(query: URLSearchParams): MendWish | null {
  const by = query.get('by');
  const wish = mendWishSchema.safeParse({ kind: query.get('do'), aside: query.getAll('aside'), ...(by === null ? {} : { by: Number(by) }) });
  return wish.success && wish.data.kind !== 'plan' ? wish.data : null;
}

export const load: PageServerLoad = ({ params, url, depends }) => {
  depends('mint:mends');
  return told(async () => ({ mends: await readMendPage(shotNumber(params.shot), wishOf(url.searchParams)) }));
};

const applySchema = z.object({
  wish: z.string().transform((text, context): MendWish => {
    try {
      return mendWishSchema.parse(JSON.parse(text));
    } catch {
      context.addIssue({ code: 'custom', message: 'It is not clear what is to be mended. Reload the page.' });
      return z.NEVER;
    }
  }),
  seen: z.string().regex(/^[0-9a-f]{64}$/),
});

export const actions: Actions = {
  /** Has a mend carried out as it was previewed. */
  apply: async ({ params, request }) => {
    const parsed = applySchema.safeParse(Object.fromEntries(await request.formData()));
    if (!parsed.success) return fail(400, { refused: parsed.error.issues[0]!.message });
    const { wish, seen } = parsed.data;
    return told(async () => {
      await requestJob(services().database, shotNumber(params.shot), { kind: 'mend', action: 'apply', wish, seen }, actor);
      return { asked: true };
    });
  },
  /** Has the newest mend taken back. */
  undo: ({ params }) =>
    told(async () => {
      await requestJob(services().database, shotNumber(params.shot), { kind: 'mend', action: 'undo', wish: null, seen: '' }, actor);
      return { asked: true };
    }),
  ...waiverActions,
};
