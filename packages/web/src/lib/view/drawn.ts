import type { Look } from '@mint-tally/core';

/** How the values of a picture are to be read. */
export const READ_AS = { colour: 0, range: 1, signs: 2, things: 3 } as const;
export type ReadAs = keyof typeof READ_AS;

/** What is looked at of a picture. */
export const CHANNELS = { all: 0, first: 1, second: 2, third: 3, alpha: 4, luminance: 5 } as const;
export type ChannelChoice = keyof typeof CHANNELS;

/** Everything that the shader is told besides the picture. */
export interface Drawn {
  readonly look: Look;
  readonly mode: number;
  readonly channel: number;
  /** Values that become black and white, or the largest size of a signed one. */
  readonly range: readonly [number, number];
  readonly hasAlpha: boolean;
  readonly falseColour: boolean;
  readonly markRange: boolean;
  /** Linear light behind the alpha; `none` leaves the alpha out. */
  readonly background: 'check' | 'none' | readonly [number, number, number];
  readonly straight: boolean;
  readonly outlines: boolean;
  /** Where the display window's corner lies, in device pixels. */
  readonly pan: readonly [number, number];
  /** Device pixels for a pixel of the picture, across and down. */
  readonly zoom: readonly [number, number];
}
