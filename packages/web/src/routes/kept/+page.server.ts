import { listShots, readHouse } from '@mint-tally/store';
import { told } from '$lib/server/errors';
import { currentProject, services } from '$lib/server/services';
import type { PageServerLoad } from './$types';

/** What Mint Tally itself keeps on disk, and until when. */
export const load: PageServerLoad = () =>
  told(async () => {
    const { database, config } = services();
    const [house, shots] = await Promise.all([readHouse(database), listShots(database, (await currentProject()).id)]);
    const names = new Map(shots.map(({ id, name }) => [id, name]));
    return {
      keep: config.keep,
      house: house && {
        ...house,
        setAside: house.setAside
          .map((entry) => ({ ...entry, shot: names.has(entry.shotId) ? { id: entry.shotId, name: names.get(entry.shotId)! } : null }))
          .sort((a, b) => a.goesAt - b.goesAt),
      },
    };
  });
