import { figuresIn, sayPlace, worstRegions, type Rectangle } from '@mint-tally/core';
import { readAssayTiles } from '@mint-tally/store';
import type { FrameTiles, RegionFrames } from '$lib/assay/tiles';
import { services } from './services';

/** The noise of a frame's tiles; null where it was not measured. */
export async function readFrameTiles(shotId: number, pass: string, frame: number): Promise<FrameTiles | null> {
  const [tiles] = await readAssayTiles(services().database, shotId, { pass, frame });
  if (!tiles) return null;
  const { width, height, sigmas } = tiles;
  return {
    width,
    height,
    sigmas: Array.from(sigmas, (sigma) => (Number.isFinite(sigma) ? Number(sigma.toPrecision(3)) : null)),
    worst: worstRegions(tiles).map(({ place, noise }) => ({ place: [...place], noise, says: sayPlace(place, tiles) })),
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
