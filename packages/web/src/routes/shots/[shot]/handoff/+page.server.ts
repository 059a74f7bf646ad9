import { codecsOfExtension, extensionOfCodec, packageWishSchema, receiptSchema } from '@mint-tally/core';
import { joinInside } from '@mint-tally/disk';
import { findRoot, resolveInside } from '@mint-tally/engine';
import { addReceipt, requestJob, withdrawStamp, type Shot } from '@mint-tally/store';
import { fail } from '@sveltejs/kit';
import * as z from 'zod';
import { shotNumber, told } from '$lib/server/errors';
import { isAmongFrames, readHandoff } from '$lib/server/handoff';
import { fieldsOf, movieFormSchema, packageFormSchema, sheetFormSchema, verifierField } from '$lib/server/handoff-forms';
import { actor, services } from '$lib/server/services';
import { stampVersion } from '$lib/server/stamping';
import { waiverActions } from '$lib/server/shot-actions';
import { loadShotState } from '$lib/server/shot-state';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ parent }) => {
  const { state } = await parent();
  return told(() => readHandoff(state));
};

const stampSchema = z.object({
  kind: z.enum(['signed', 'sent-back']),
  content: z.string().regex(/^[0-9a-f]{64}$/, 'Count the shot first.'),
  person: z.string().trim().min(1, 'A name is needed: somebody answers for it.').max(200),
  note: z.string().trim().max(2000).default(''),
});

/** What stands beside a movie's pictures: the same pass of another folder, or another pass of this one; null for nothing. */
function besideOf({ root, folder }: Shot, { pass, otherPass, otherRoot, otherFolder }: Record<'pass' | 'otherPass' | 'otherRoot' | 'otherFolder', string>) {
  if (otherRoot !== '') return { root: otherRoot, folder: otherFolder, pass: otherPass || pass };
  return otherPass === '' ? null : { root, folder, pass: otherPass };
}

const GIGABYTE = 1e9;
const MOST_RECEIPT = 20_000_000;

export const actions: Actions = {
  ...waiverActions,
  /** Asks the engine to write the package. */
  package: async ({ params, request }) => {
    const form = await request.formData();
    const parsed = packageFormSchema.safeParse({ ...Object.fromEntries(form), passes: form.getAll('passes'), sums: form.getAll('sums') });
    if (!parsed.success) return fail(400, { fields: fieldsOf(parsed.error) });
    return told(async () => {
      const { database, config } = services();
      const { root, person, withoutHandles, volumes, choosesPasses, ...chosen } = parsed.data;
      const folder = chosen.form === 'tar' && volumes === null && !chosen.folder.endsWith('.tar') ? `${chosen.folder}.tar` : chosen.folder;
      if (choosesPasses && chosen.passes.length === 0) return fail(400, { fields: { passes: 'Choose a pass at least.' } });
      joinInside(findRoot(config.roots, root).path, folder);
      const state = await loadShotState(database, shotNumber(params.shot));
      if (isAmongFrames(state.shot, root, folder)) {
        return fail(409, { fields: { folder: 'This is the folder of the frames themselves: the package would be counted with them. Choose another.' } });
      }
      if (!state.ready) return fail(409, { fields: { folder: state.refusal } });
      const all = state.brief.passes.length === chosen.passes.length;
      const wish = packageWishSchema.parse({
        ...chosen,
        ...{ passes: all ? [] : chosen.passes, withHandles: !withoutHandles, volumeSize: volumes === null ? null : volumes * GIGABYTE },
      });
      await requestJob(database, state.shot.id, { kind: 'package', root, folder, person, wish }, actor);
      return { asked: true };
    });
  },
  /** Asks the engine to make a review movie. */
  movie: async ({ params, request }) => {
    const parsed = movieFormSchema.safeParse(Object.fromEntries(await request.formData()));
    if (!parsed.success) return fail(400, { movie: fieldsOf(parsed.error) });
    return told(async () => {
      const { database, config } = services();
      const { root, pass, range, width, height, bitrate, otherPass, otherRoot, otherFolder, withSound, ...settings } = parsed.data;
      const state = await loadShotState(database, shotNumber(params.shot));
      const named = settings.file.split('.').at(-1)!.toLowerCase();
      const file = codecsOfExtension[named]?.includes(settings.codec) ? settings.file : `${settings.file}.${extensionOfCodec[settings.codec]}`;
      joinInside(findRoot(config.roots, root).path, file);
      if (otherRoot !== '') resolveInside(findRoot(config.roots, otherRoot), otherFolder);
      if (isAmongFrames(state.shot, root, file))
        return fail(409, { movie: { file: 'This is the folder of the frames themselves: the movie would be counted with them. Choose another.' } });
      await requestJob(
        database,
        state.shot.id,
        {
          ...{ kind: 'movie', root, file, pass, range, withSound },
          settings: {
            ...settings,
            size: width !== null && height !== null ? [width, height] : null,
            bitrate: bitrate === null ? null : Math.round(bitrate * 1e6),
          },
          other: besideOf(state.shot, { pass, otherPass, otherRoot, otherFolder }),
        },
        actor,
      );
      return { asked: true };
    });
  },
  /** Asks the engine to make a contact sheet. */
  sheet: async ({ params, request }) => {
    const form = await request.formData();
    const parsed = sheetFormSchema.safeParse({ ...Object.fromEntries(form), passes: form.getAll('passes') });
    if (!parsed.success) return fail(400, { sheet: fieldsOf(parsed.error) });
    return told(async () => {
      const { database, config } = services();
      const { root, file: named, ...settings } = parsed.data;
      const { shot } = await loadShotState(database, shotNumber(params.shot));
      const file = named.toLowerCase().endsWith(`.${settings.form}`) ? named : `${named}.${settings.form}`;
      joinInside(findRoot(config.roots, root).path, file);
      if (isAmongFrames(shot, root, file))
        return fail(409, { sheet: { file: 'This is the folder of the frames themselves: the sheet would be counted with them. Choose another.' } });
      await requestJob(database, shot.id, { kind: 'sheet', root, file, settings }, actor);
      return { asked: true };
    });
  },
  /** Signs the version off, or sends it back, for the frames as they were counted. */
  stamp: async ({ params, request }) => {
    const parsed = stampSchema.safeParse(Object.fromEntries(await request.formData()));
    if (!parsed.success) return fail(400, { stamp: fieldsOf(parsed.error) });
    return told(async () => {
      const refused = await stampVersion(shotNumber(params.shot), parsed.data);
      return refused ? fail(refused.field === 'note' ? 400 : 409, { stamp: { [refused.field]: refused.message } }) : { stamped: true };
    });
  },
  /** Takes the newest stamp back. */
  unstamp: async ({ params, request }) => {
    const id = z.coerce
      .number()
      .int()
      .positive()
      .safeParse((await request.formData()).get('stamp'));
    if (!id.success) return fail(400, { stamp: { person: 'There is no such stamp. Reload the page.' } });
    return told(async () => {
      await services().database.transaction((inside) => withdrawStamp(inside, shotNumber(params.shot), id.data, actor));
      return { unstamped: true };
    });
  },
  /** Verifies the package that the shot was opened from, once more. */
  verify: async ({ params, request }) => {
    const person = verifierField.safeParse((await request.formData()).get('person'));
    if (!person.success) return fail(400, { verify: { person: person.error.issues[0]!.message } });
    return told(async () => {
      await requestJob(services().database, shotNumber(params.shot), { kind: 'verify', person: person.data }, actor);
      return { asked: true };
    });
  },
  /** Attaches a receipt that the other side sent back. */
  receipt: async ({ params, request }) => {
    const file = (await request.formData()).get('receipt');
    if (!(file instanceof File) || file.size === 0) return fail(400, { receipt: 'Choose the receipt’s file.' });
    if (file.size > MOST_RECEIPT) return fail(400, { receipt: `${file.name} is too large to be a receipt.` });
    let value: unknown;
    try {
      value = JSON.parse(await file.text());
    } catch {
      return fail(400, { receipt: `${file.name} is no receipt: it is not JSON.` });
    }
    const receipt = receiptSchema.safeParse(value);
    if (!receipt.success) return fail(400, { receipt: `${file.name} is no receipt of Mint Tally.` });
    return told(async () => {
      const packageId = await services().database.transaction((inside) => addReceipt(inside, shotNumber(params.shot), receipt.data, actor));
      return { attached: packageId === null ? 'none' : 'one' };
    });
  },
};
