import { findRoot, PAYLOAD_FOLDER, resolveInside } from '@mint-tally/engine';
import { addWaiver, createShot, listSpecifications, noteArrival, requestJob, saveBrief, ShotNameTakenError } from '@mint-tally/store';
import { fail, redirect } from '@sveltejs/kit';
import * as z from 'zod';
import { readBriefForm } from '$lib/server/brief-forms';
import { told } from '$lib/server/errors';
import { verifierField } from '$lib/server/handoff-forms';
import { findPackage } from '$lib/server/folders';
import { actor, currentProject, services } from '$lib/server/services';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = () =>
  told(async () => ({
    roots: services().config.roots.map(({ name, path }) => ({ name, path })),
    specifications: await listSpecifications(services().database, (await currentProject()).id),
  }));

const placeSchema = z.object({ root: z.string().max(32), folder: z.string().max(2048) });

const openSchema = placeSchema.extend({
  name: z.string().trim().min(1, 'A name is needed.').max(200),
  person: verifierField,
});

export const actions: Actions = {
  /** Saves a new shot with its first brief, and asks for its first count. */
  save: async ({ request }) => {
    const form = await request.formData();
    const place = placeSchema.safeParse({ root: form.get('root'), folder: form.get('folder') });
    if (!place.success) return fail(400, { fields: { '': 'Choose a folder first.' } });
    const read = readBriefForm(form);
    if (!read.ok) return fail(400, { fields: read.fields });
    const id = await told(async () => {
      const { database, config } = services();
      // Nothing is saved of a folder that may not be read.
      resolveInside(findRoot(config.roots, place.data.root), place.data.folder);
      const project = await currentProject();
      try {
        return await database.transaction(async (inside) => {
          const shotId = await createShot(inside, { projectId: project.id, name: read.brief.shot, note: read.note, ...place.data }, actor);
          await saveBrief(inside, shotId, read.brief, actor);
          await requestJob(inside, shotId, { kind: 'count' }, actor);
          return shotId;
        });
      } catch (thrown) {
        if (thrown instanceof ShotNameTakenError) return fail(409, { fields: { shot: `${thrown.message} ${thrown.remedy}` } });
        throw thrown;
      }
    });
    if (typeof id !== 'number') return id;
    redirect(303, `/shots/${id}/tally`);
  },
  /** Makes a shot of a package that came from elsewhere, and asks to verify and to count it. */
  open: async ({ request }) => {
    const form = await request.formData();
    const parsed = openSchema.safeParse(Object.fromEntries(form));
    if (!parsed.success) return fail(400, { fields: { person: parsed.error.issues[0]!.message } });
    const { root, folder, person, name } = parsed.data;
    const id = await told(async () => {
      const { database } = services();
      const arrived = findPackage(root, folder);
      if (!arrived) return fail(409, { fields: { person: 'This folder is no package any more. Choose again.' } });
      const project = await currentProject();
      try {
        return await database.transaction(async (inside) => {
          const place = { root, folder: folder === '' ? PAYLOAD_FOLDER : `${folder}/${PAYLOAD_FOLDER}` };
          const shotId = await createShot(inside, { projectId: project.id, name, note: '', ...place }, actor);
          await saveBrief(inside, shotId, arrived.brief, actor);
          await noteArrival(inside, shotId, { root, folder }, actor);
          for (const waiver of arrived.waivers) await addWaiver(inside, shotId, waiver, actor);
          await requestJob(inside, shotId, { kind: 'verify', person }, actor);
          await requestJob(inside, shotId, { kind: 'count' }, actor);
          return shotId;
        });
      } catch (thrown) {
        if (thrown instanceof ShotNameTakenError) return fail(409, { fields: { name: `${thrown.message} ${thrown.remedy}` } });
        throw thrown;
      }
    });
    if (typeof id !== 'number') return id;
    redirect(303, `/shots/${id}/handoff`);
  },
};
