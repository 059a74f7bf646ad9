import { mendWishSchema, type MendWish } from '@mint-tally/core';
import { dropFromMendList, requestJob } from '@mint-tally/store';
import { fail } from '@sveltejs/kit';
import * as z from 'zod';
import { shotNumber, told } from '$lib/server/errors';
import { addToList, listRequestSchema } from '$lib/server/mend-list';
import { readMendPage } from '$lib/server/mends';
import { actor, services } from '$lib/server/services';
import { waiverActions } from '$lib/server/shot-actions';
import type { Actions, PageServerLoad } from './$types';

const KINDS: ReadonlySet<string> = new Set(mendWishSchema.options.map(({ shape }) => shape.kind.value));

/**
 * What an address asks to be previewed: `?do=` with the kind of mend, and what it takes beside it: `frames=`, `pass=` for each pass,
 * two of them for a swap, `by=`, `fps=`, `mend=` and `path=` for what comes back, `aside=` for each file that was given up for another.
 */
function wishOf(query: URLSearchParams): { wish: MendWish | null; problem: string } {
  const kind = query.get('do');
  const by = query.get('by');
  const said = {
    ...{ kind, frames: query.get('frames') ?? '', passes: query.getAll('pass'), aside: query.getAll('aside') },
    ...{ fps: query.get('fps') ?? undefined, mend: query.get('mend') ?? undefined, paths: query.getAll('path') },
    ...(by === null ? {} : { by: Number(by) }),
  };
  // What is only looked at, or not filled in yet, is no wish.
  if (
    kind === null ||
    !KINDS.has(kind) ||
    (kind === 'renumber' && by === null) ||
    (kind === 'swap' && said.passes.length === 0) ||
    (kind === 'conform' && said.fps === undefined)
  )
    return { wish: null, problem: '' };
  const wish = mendWishSchema.safeParse(said);
  if (wish.success) return { wish: wish.data, problem: '' };
  // Those two are filled in on the page, and sent with its form.
  return { wish: null, problem: kind === 'patch' || kind === 'convert' ? '' : wish.error.issues[0]!.message };
}

export const load: PageServerLoad = async ({ params, url, depends, parent }) => {
  depends('mint:mends');
  const shown = url.searchParams.get('do') ?? '';
  const { state } = await parent();
  return told(async () => ({
    mends: await readMendPage(shotNumber(params.shot), wishOf(url.searchParams), shown),
    roots: services().config.roots.map(({ name, path }) => ({ name, path })),
    passes: state.brief.passes.map(({ name }) => name),
  }));
};

const wishField = z.string().transform((text, context): MendWish => {
  let asked: unknown;
  try {
    asked = JSON.parse(text);
  } catch {
    context.addIssue({ code: 'custom', message: 'It is not clear what is to be mended. Reload the page.' });
    return z.NEVER;
  }
  const wish = mendWishSchema.safeParse(asked);
  if (wish.success) return wish.data;
  context.addIssue({ code: 'custom', message: wish.error.issues[0]!.message });
  return z.NEVER;
});
const previewSchema = z.object({ wish: wishField });
const applySchema = z.object({ wish: wishField, seen: z.string().regex(/^[0-9a-f]{64}$/) });
const journalField = z.string().regex(/^\d+-[0-9TZ]{1,40}$/, 'There is no such mend. Reload the page.');
const undoSchema = z.object({ journal: journalField });
const keepSchema = z.object({ journal: journalField, until: z.union([z.literal(''), z.iso.date('Choose a day.')]) });

type MendJob = Parameters<typeof requestJob>[2] & { kind: 'mend' };

/** Asks for a mend's job with what a form says; what it says wrongly is told. */
async function ask<Schema extends z.ZodType>(
  { params, request }: { params: { shot: string }; request: Request },
  schema: Schema,
  jobOf: (said: z.output<Schema>) => Partial<MendJob> & Pick<MendJob, 'action'>,
) {
  const parsed = schema.safeParse(Object.fromEntries(await request.formData()));
  if (!parsed.success) return fail(400, { refused: parsed.error.issues[0]!.message });
  return told(async () => {
    await requestJob(services().database, shotNumber(params.shot), { kind: 'mend', wish: null, seen: '', until: null, ...jobOf(parsed.data) }, actor);
    return { asked: true };
  });
}

export const actions: Actions = {
  /** Has a mend worked out for which files have to be looked into. */
  preview: (event) => ask(event, previewSchema, ({ wish }) => ({ action: 'preview', wish })),
  /** Has a mend carried out as it was previewed. */
  apply: (event) => ask(event, applySchema, ({ wish, seen }) => ({ action: 'apply', wish, seen })),
  /** Has the newest mend taken back, which is named. */
  undo: (event) => ask(event, undoSchema, ({ journal }) => ({ action: 'undo', seen: journal })),
  /** Has what a mend set aside kept until a day; as long as is usual without one. */
  keep: (event) => ask(event, keepSchema, ({ journal, until }) => ({ action: 'keep', seen: journal, until: until === '' ? null : `${until}T23:59:59.000Z` })),
  /** Has what a mend set aside taken away. */
  letgo: (event) => ask(event, undoSchema, ({ journal }) => ({ action: 'let-go', seen: journal })),
  /** Puts frames on the list. */
  list: async ({ params, request }) => {
    const form = await request.formData();
    const said = (name: string) => String(form.get(name) ?? '');
    const parsed = listRequestSchema.safeParse({ entries: [{ pass: said('pass'), frames: said('frames') }], reason: said('reason'), origin: 'typed' });
    if (!parsed.success) return fail(400, { refused: parsed.error.issues[0]!.message });
    return told(async () => {
      try {
        await addToList(shotNumber(params.shot), parsed.data);
        return { listed: true };
      } catch (thrown) {
        return fail(400, { refused: thrown instanceof Error ? thrown.message : String(thrown) });
      }
    });
  },
  /** Takes entries off the list. */
  drop: async ({ params, request }) => {
    const ids = z
      .array(z.coerce.number().int().positive())
      .max(1000)
      .safeParse((await request.formData()).getAll('entry'));
    if (!ids.success) return fail(400, { refused: 'There is no such entry. Reload the page.' });
    return told(async () => {
      await dropFromMendList(services().database, shotNumber(params.shot), ids.data);
      return { dropped: true };
    });
  },
  ...waiverActions,
};
