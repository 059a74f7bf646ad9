/** A picture's soft gradients. */
export interface Gradients {
  /** Pixels over which a gradient is told. */
  readonly pixels: number;
  /** How far the softest tenth of them goes over these pixels, 0..1 of the encoded (sRGB) values. */
  readonly span: number;
  /** Departure from an even slope there, root mean square, in the same values: noise that hides steps. */
  readonly noise: number;
  /** Share of the picture that is soft gradients, 0..1. */
  readonly share: number;
}

/** What rounding to a number of bits does to gradients. */
export interface Banding {
  /** Code values that the gradient goes over. */
  readonly codes: number;
  /** Pixels from one step to the next. */
  readonly stepPixels: number;
  /** The noise in code values. */
  readonly noise: number;
  /** Whether the steps will be seen: wide, and not hidden by noise. */
  readonly visible: boolean;
}

/** A step narrower than this, in pixels, is not seen as a band. */
const NARROW = 4;
/**
 * Noise of about half a code value makes rounding errors independent of the signal, which is what
 * dither is for (Lipshitz, Wannamaker and Vanderkooy 1992, section 4).
 */
const DITHER = 0.5;

/** How gradients fare when they are stored as integers of so many bits. */
export function bandingOf({ span, pixels, noise }: Gradients, bits: number): Banding {
  const most = 2 ** bits - 1;
  const codes = span * most;
  const stepPixels = pixels / codes;
  return { codes, stepPixels, noise: noise * most, visible: stepPixels > NARROW && noise * most < DITHER };
}
