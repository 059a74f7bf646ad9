import { joinInside } from '@mint-tally/disk';
import { findRoot } from '@mint-tally/engine';
import { requestJob } from '@mint-tally/store';
import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import { shotNumber, told } from '$lib/server/errors';
import { actor, services } from '$lib/server/services';
import { waiverActions } from '$lib/server/shot-actions';
import { loadShotState } from '$lib/server/shot-state';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ parent }) => {
  const { state } = await parent();
  const roots = services()
    .config.roots.filter((root) => root.writable)
    .map(({ name, path }) => ({ name, path }));
  const number = String(state.packages.length + 1).padStart(3, '0');
  return { roots, proposedFolder: `${state.shot.name.replace(/[^A-Za-z0-9_-]+/g, '_')}_package_${number}` };
};

const packageSchema = z.object({
  root: z.string(),
  folder: z
    .string()
    .trim()
    .min(1, 'A folder name is needed.')
    .max(200)
    .regex(/^[A-Za-z0-9_][A-Za-z0-9_.-]*(\/[A-Za-z0-9_][A-Za-z0-9_.-]*)*$/, 'Use letters, digits, dot, dash and underscore; / for folders.'),
  person: z.string().trim().min(1, 'A name is needed: it stands in the package.').max(200),
});

export const actions: Actions = {
  ...waiverActions,
  /** Asks the engine to write the package. */
  package: async ({ params, request }) => {
    const form = await request.formData();
    const parsed = packageSchema.safeParse(Object.fromEntries(form));
    if (!parsed.success) return fail(400, { fields: Object.fromEntries(parsed.error.issues.map((issue) => [String(issue.path[0]), issue.message])) });
    return told(async () => {
      const { database, config } = services();
      const root = findRoot(config.roots, parsed.data.root);
      joinInside(root.path, parsed.data.folder);
      const state = await loadShotState(database, shotNumber(params.shot));
      if (!state.ready) return fail(409, { fields: { folder: 'A gate is still open; close it first.' } });
      await requestJob(database, state.shot.id, { kind: 'package', ...parsed.data }, actor);
      return { asked: true };
    });
  },
};
