import path from 'node:path';
import { joinInside } from '@mint-tally/disk';
import { findRoot } from '@mint-tally/engine';
import { newestPackagePlace, requestJob, type Shot } from '@mint-tally/store';
import { fail } from '@sveltejs/kit';
import * as z from 'zod';
import { shotNumber, told } from '$lib/server/errors';
import { actor, services } from '$lib/server/services';
import { waiverActions } from '$lib/server/shot-actions';
import { loadShotState } from '$lib/server/shot-state';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ parent }) => {
  const { state } = await parent();
  const { config, database } = services();
  const roots = config.roots.filter((root) => root.writable).map(({ name, path }) => ({ name, path }));
  const number = String(state.packages.length + 1).padStart(3, '0');
  const proposed = `${state.shot.name.replace(/[^A-Za-z0-9_-]+/g, '_')}_package_${number}`;
  const { root, folder } = proposePlace(roots, state.shot, await newestPackagePlace(database));
  return { roots, proposedRoot: root, proposedFolder: joinFolders(folder, proposed) };
};

const joinFolders = (folder: string, name: string) => (folder === '' ? name : `${folder}/${name}`);

/** Where the last package of any shot went; without one a root that the frames are not in, else a folder of its own beside them. */
function proposePlace(roots: readonly { name: string }[], shot: Shot, last: { root: string; folder: string } | null): { root: string; folder: string } {
  if (last && roots.some(({ name }) => name === last.root)) {
    const folder = path.posix.dirname(last.folder);
    return { root: last.root, folder: folder === '.' ? '' : folder };
  }
  const other = roots.find(({ name }) => name !== shot.root);
  return other ? { root: other.name, folder: '' } : { root: roots[0]?.name ?? '', folder: 'packages' };
}

/** Whether a package would stand among the frames that it is made of. */
function isAmongFrames(shot: Shot, root: string, folder: string): boolean {
  return root === shot.root && (shot.folder === '' || folder === shot.folder || folder.startsWith(`${shot.folder}/`));
}

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
      if (isAmongFrames(state.shot, parsed.data.root, parsed.data.folder)) {
        return fail(409, { fields: { folder: 'This is the folder of the frames themselves: the package would be counted with them. Choose another.' } });
      }
      if (!state.ready) return fail(409, { fields: { folder: state.refusal } });
      await requestJob(database, state.shot.id, { kind: 'package', ...parsed.data }, actor);
      return { asked: true };
    });
  },
};
