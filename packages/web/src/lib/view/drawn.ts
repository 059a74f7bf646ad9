import type { Look, Reading } from '@mint-tally/core';

/** How the values of a picture are to be read. */
export const READ_AS: Record<Reading, number> = { colour: 0, range: 1, signs: 2, things: 3 };
export type ReadAs = Reading;

/** What is looked at of a picture. */
export const CHANNELS = { all: 0, first: 1, second: 2, third: 3, alpha: 4, luminance: 5 } as const;
export type ChannelChoice = keyof typeof CHANNELS;

/** Ways of comparing that show both pictures in one place. */
export type ComparedAs = 'alone' | 'split' | 'difference' | 'overlay' | 'behind';

/** What is said of one picture. */
export interface Side {
  readonly mode: number;
  /** Values that become black and white, or the largest size of a signed one. */
  readonly range: readonly [number, number];
  readonly hasAlpha: boolean;
  readonly straight: boolean;
}

/** Everything that the shader is told besides the pictures. */
export interface Drawn {
  readonly look: Look;
  readonly side: Side;
  readonly comparedAs: ComparedAs;
  /** Of the picture that it is compared with. */
  readonly other: Side;
  /** Where the line of a split goes through, in device pixels, and where its other side is. */
  readonly splitPoint: readonly [number, number];
  readonly splitNormal: readonly [number, number];
  readonly gain: number;
  readonly opacity: number;
  readonly channel: number;
  readonly falseColour: boolean;
  readonly markRange: boolean;
  /** Linear light behind the alpha; `none` leaves the alpha out. */
  readonly background: 'check' | 'none' | readonly [number, number, number];
  readonly outlines: boolean;
  /** Where the display window's corner lies, in device pixels. */
  readonly pan: readonly [number, number];
  /** Device pixels for a pixel of the picture, across and down. */
  readonly zoom: readonly [number, number];
  /** The part of the screen that is drawn on, in device pixels from the left; null for all of it. */
  readonly strip: readonly [number, number] | null;
}
