import * as z from 'zod';

/** Pixels of a picture: left, top, width, height. */
export const rectangleSchema = z.tuple([z.number(), z.number(), z.number(), z.number()]);

/** The noise of a frame, tile by tile, as the page asks for it. */
export const frameTilesSchema = z.object({
  width: z.number(),
  height: z.number(),
  /** Row by row, null where nothing is measured. */
  sigmas: z.array(z.number().nullable()),
  worst: z.array(z.object({ place: rectangleSchema, noise: z.number(), says: z.string() })),
  /** How many fireflies there are, and where the first of them are; null where that was not kept. */
  fireflies: z.object({ count: z.number(), places: z.array(z.tuple([z.number(), z.number()])) }).nullable(),
});
export type FrameTiles = z.output<typeof frameTilesSchema>;

const figure = z.number().nullable();
/** What a region comes to in every frame that was measured. */
export const regionFramesSchema = z.array(
  z.object({ pass: z.string(), frame: z.number(), noise: figure, relativeNoise: figure, temporalNoise: figure, meanLuminance: figure, fireflies: figure }),
);
export type RegionFrames = z.output<typeof regionFramesSchema>;

/** How noisy a tile is, held against a reference: what was ordered, else the typical tile. */
export interface HeatBand {
  /** Over the reference, at least. */
  readonly from: number;
  /** Red, green, blue and alpha, 0 to 255. */
  readonly colour: readonly [number, number, number, number];
}

/** From quiet to loud: each band is twice the noise of the one before, and darker or brighter than it, so that it is told without its hue. */
export const heatBands: readonly HeatBand[] = [
  { from: 0, colour: [0, 0, 0, 0] },
  { from: 0.5, colour: [25, 66, 120, 150] },
  { from: 1, colour: [40, 140, 140, 170] },
  { from: 2, colour: [226, 170, 60, 190] },
  { from: 4, colour: [255, 110, 80, 205] },
  { from: 8, colour: [255, 235, 225, 220] },
];

export const heatColour = (times: number) => heatBands.findLast(({ from }) => times >= from)!.colour;

/** The noise of the tile in the middle, of those that have any; null where none has. The few noisiest rule the frame's figure: this says what most of it is like. */
export function typicalTile(sigmas: readonly (number | null)[]): number | null {
  const told = sigmas.filter((sigma) => sigma !== null && sigma > 0).sort((a, b) => a! - b!);
  return told[told.length >> 1] ?? null;
}

/** What tiles are held against: the target, else the tile in the middle. */
export const heatReference = (sigmas: readonly (number | null)[], target: number | null): number => target ?? typicalTile(sigmas) ?? 1;
