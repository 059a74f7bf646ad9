/** What regressions of a frame tell of its structure, tile by tile, as variances. */
export interface StructureFigures {
  /** What features and neighbours leave; NaN where there is nothing to tell it by. */
  readonly byNeighbours: Float64Array;
  /** Of what was regressed, structure and all. */
  readonly total: Float64Array;
  /** Share of pixels that can be seen in each neighbour. */
  readonly known: readonly Float64Array[];
}

/** Tiles tell of the noise where so much of them is seen in every neighbour: what is hidden there the neighbours cannot explain. */
const WELL_SEEN = 0.5;

export const isWellSeen = ({ byNeighbours, known }: StructureFigures, tile: number): boolean =>
  Number.isFinite(byNeighbours[tile]) && known.every((shares) => shares[tile]! >= WELL_SEEN);

/** How much noise there is for the structure of a picture, over the tiles that can be told; Infinity where there is no structure, NaN where nothing can be told. */
export function noisinessOf(figures: StructureFigures): number {
  const { byNeighbours, total } = figures;
  let [noise, structure, tiles] = [0, 0, 0];
  byNeighbours.forEach((variance, tile) => {
    if (!isWellSeen(figures, tile)) return;
    noise += variance;
    structure += Math.max(0, total[tile]! - variance);
    tiles++;
  });
  return tiles === 0 ? NaN : structure > 0 ? noise / structure : Infinity;
}
