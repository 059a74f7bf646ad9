import { figuresIn, sayPlace, worstRegions, type Rectangle } from '@mint-tally/core';
import { readAssayTiles } from '@mint-tally/store';
import type { FrameTiles, RegionFrames } from '$lib/assay/tiles';
import { services } from './services';

/** More fireflies are counted, but not marked: so many rings cover the picture. */
const MOST_MARKED = 2_000;

/** The noise of a frame's tiles, and its fireflies; null where it was not measured. */
export async function readFrameTiles(shotId: number, pass: string, frame: number): Promise<FrameTiles | null> {
  const [tiles] = await readAssayTiles(services().database, shotId, { pass, frame });
  if (!tiles) return null;
  const { width, height, sigmas, fireflies } = tiles;
  return {
    width,
    height,
    sigmas: Array.from(sigmas, (sigma) => (Number.isFinite(sigma) ? Number(sigma.toPrecision(3)) : null)),
    worst: worstRegions(tiles).map(({ place, noise }) => ({ place: [...place], noise, says: sayPlace(place, tiles) })),
    fireflies: fireflies && {
      count: fireflies.length,
      places: Array.from(fireflies.subarray(0, MOST_MARKED), (place): [number, number] => [place % width, Math.floor(place / width)]),
    },
  };
}

/** What a region comes to in every frame that was measured. */
export async function readRegion(shotId: number, rectangle: Rectangle): Promise<RegionFrames> {
  const all = await readAssayTiles(services().database, shotId, null);
  return all.map((tiles, i) => {
    const before = all[i - 1]?.pass === tiles.pass ? all[i - 1]! : null;
    return { pass: tiles.pass, frame: tiles.frame, ...figuresIn(tiles, before, rectangle) };
  });
}
