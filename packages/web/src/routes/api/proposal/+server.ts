import { listShots } from '@mint-tally/store';
import { json } from '@sveltejs/kit';
import * as z from 'zod';
import { answered } from '$lib/server/errors';
import { findPackage, proposeForFolder, readPlace } from '$lib/server/folders';
import { currentProject, services } from '$lib/server/services';
import type { RequestHandler } from './$types';

const querySchema = z.object({ root: z.string().max(32), path: z.string().max(4096).default('') });

/** The brief that a folder's content suggests; of a package the one that came with it. */
export const GET: RequestHandler = ({ url }) =>
  answered(async () => {
    const { root, path } = querySchema.parse(Object.fromEntries(url.searchParams));
    const arrived = findPackage(root, path);
    if (arrived) {
      const { shot, version, range, passes } = arrived.brief;
      const taken = new Set((await listShots(services().database, (await currentProject()).id)).map(({ name }) => name));
      return json({ package: { shot, version: version ?? '', range, passes: passes.length, name: freeName(shot, taken) } });
    }
    const [proposal, place] = await Promise.all([proposeForFolder(root, path), readPlace(root, path)]);
    return json({ ...proposal, place });
  });

/** The package's own name, or one beside those that are there. */
function freeName(shot: string, taken: ReadonlySet<string>): string {
  for (let i = 1; ; i++) {
    const name = i === 1 ? shot : `${shot} arrived${i === 2 ? '' : ` ${i - 1}`}`;
    if (!taken.has(name)) return name;
  }
}
