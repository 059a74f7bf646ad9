import type { FrameNoise } from './noise/index.ts';
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
  /** How the light passes sum to it; null where it is no beauty, or no lights were ordered. */
  readonly sum: LightSum | null;
  /** What the file says of its rendering; null where it does not. */
  readonly host: string | null;
  readonly samples: number | null;
  /** The shot's random numbers are the same from frame to frame: noise stands still, and an estimate is less sure. */
  readonly heldSeeds: boolean;
  /** The pixel filter joins neighbouring pixels, which was corrected for. */
  readonly wideFilter: boolean;
}
