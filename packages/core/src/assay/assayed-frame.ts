import * as z from 'zod';
import type { FrameNoise, TileGrid } from './noise/index.ts';
import type { LightSum } from './light-sum.ts';

/** What was measured of one frame of one pass. */
export interface AssayedFrame extends FrameNoise {
  readonly pass: string;
  readonly frame: number;
  /** Relative to the shot's folder. */
  readonly file: string;
  /** Of all pixels that are numbers; null where there is none. */
  readonly meanLuminance: number | null;
  /** What noise alone makes of that mean, as a standard deviation; null where the noise is not known. */
  readonly luminanceError: number | null;
  readonly fireflies: number;
  /** Places of those, pixel by pixel from the upper left corner. */
  readonly fireflyPlaces: Int32Array;
  /** How the light passes sum to it; null where it is no beauty, or no lights were ordered. */
  readonly sum: LightSum | null;
  /** What the file says of its rendering; null where it does not. */
  readonly host: string | null;
  readonly samples: number | null;
  readonly seconds: number | null;
  /** Of its file. */
  readonly bytes: number | null;
  /** The picture that its tiles lie in. */
  readonly grid: TileGrid;
  /** Share of the picture that is measured: what its alpha covers. */
  readonly covered: number;
  /** Mean luminance of each tile; NaN where nothing is measured. */
  readonly means: Float64Array;
  /** Share of a picture of 8 bits whose soft gradients stand in steps; null of others. */
  readonly banded: number | null;
  /** The shot's random numbers are the same from frame to frame: noise stands still, and an estimate is less sure. */
  readonly heldSeeds: boolean;
  /** The pixel filter joins neighbouring pixels, which was corrected for. */
  readonly wideFilter: boolean;
  /** How many pixels' noise goes together by it, as far as means over many are concerned; 1 where each is for itself. */
  readonly joinedPixels: number;
}

const figure = z.number().nullable();

/** What is kept of an assayed frame: all but its tiles and the places of its fireflies. */
export const keptFrameSchema = z.object({
  pass: z.string(),
  frame: z.number(),
  noise: figure,
  relativeNoise: figure,
  temporalNoise: figure,
  fireflies: z.number(),
  meanLuminance: figure,
  by: z.enum(['halves', 'neighbours', 'features', 'picture']),
  host: z.string().nullable(),
  samples: figure,
  seconds: figure.default(null),
  bytes: figure.default(null),
});
export type KeptFrame = z.output<typeof keptFrameSchema>;

/** What is kept of a shot's assay. */
export const keptAssaySchema = z.object({
  frames: z.array(keptFrameSchema),
  heldSeeds: z.boolean(),
  wideFilter: z.boolean(),
  /** What the motion vectors mean; null without a motion pass. */
  vectors: z.object({ says: z.string(), residual: figure, isSaid: z.boolean().default(false) }).nullable(),
});
export type KeptAssay = z.output<typeof keptAssaySchema>;
