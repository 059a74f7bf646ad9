import { readAssay } from '@mint-tally/store';
import { readFrameTiles } from '$lib/server/assay-tiles';
import { shotNumber, told } from '$lib/server/errors';
import { services } from '$lib/server/services';
import type { PageServerLoad } from './$types';

/** The newest assay's figures, and where the noisiest frame of its first pass is noisy. */
export const load: PageServerLoad = ({ params }) =>
  told(async () => {
    const shot = shotNumber(params.shot);
    const figures = await readAssay(services().database, shot);
    const first = figures?.frames.filter(({ pass, noise }) => pass === figures.frames[0]?.pass && noise !== null) ?? [];
    const worst = first.length === 0 ? null : first.reduce((most, frame) => (frame.noise! > most.noise! ? frame : most));
    return { figures, worst, tiles: worst && (await readFrameTiles(shot, worst.pass, worst.frame)) };
  });
