import type { Look, LookupTable, ViewTransform } from '@mint-tally/core';
import type { ChannelChoice, ReadAs } from './drawn';
import type { Alignment, OtherFolder } from './other-folder';

/** Device pixels for a pixel so large that its values stand in it. */
export const PIXELS = 48;

export const backgrounds = ['grey', 'black', 'white', 'check', 'none'] as const;
export type Background = (typeof backgrounds)[number] | 'colour';
/** Ways of comparing: next to each other, in one place, through this one's alpha, or the other one alone. */
export const comparisons = ['beside', 'split', 'difference', 'overlay', 'behind', 'other'] as const;
export type Comparison = (typeof comparisons)[number];
export type AlphaReading = 'as said' | 'straight' | 'premultiplied';

/** What a person has turned while looking; the same for all passes of a shot. */
export class ViewSettings {
  exposure: number = $state(0);
  gamma: number = $state(1);
  transform: ViewTransform = $state('srgb');
  /** A lookup table out of a file, applied to what the view gives; null for none. */
  table: LookupTable | null = $state.raw(null);
  channel: ChannelChoice = $state('all');
  /** Another channel of the file than the pass shows by itself; null for its own. */
  only: string | null = $state(null);
  /** How values are read; null for what suits the pass. */
  readAs: ReadAs | null = $state(null);
  falseColour: boolean = $state(false);
  markRange: boolean = $state(false);
  background: Background = $state('grey');
  colour: string = $state('#2f6f5e');
  alpha: AlphaReading = $state('as said');
  outlines: boolean = $state(false);
  safeAreas: boolean = $state(false);
  grid: boolean = $state(false);
  /** The noise that the assay measured, over the picture. */
  noise: boolean = $state(false);
  pixelAspect: boolean = $state(true);
  /** Device pixels for a picture's pixel; null to fit the picture into the screen. */
  zoom: number | null = $state(null);
  /** The point of the picture that stands in the middle, as shares of its width and height. */
  centre: readonly [number, number] = $state.raw([0.5, 0.5]);
  reduce: number = $state(1);
  /** Only this part of every frame is fetched: left, top, width and height in the data window; null for all of it. */
  fetched: readonly [number, number, number, number] | null = $state.raw(null);
  /** What it is compared with: empty for nothing, `frame:` and how many columns on, `pass:` and its name, `other` for the other folder. */
  against: string = $state('');
  /** A sequence or a still in another folder, once one was chosen. */
  other: OtherFolder | null = $state.raw(null);
  /** Which of its frames stand beside which, and for `offset`, how many it is behind. */
  align: Alignment = $state('number');
  alignOffset: number = $state(0);
  /** What it was compared with before that was switched off. */
  lastAgainst = 'frame:1';
  compareAs: Comparison = $state('split');
  /** Where the line of a split goes through, as shares of the viewer, and how it leans, in degrees. */
  splitAt: readonly [number, number] = $state.raw([0.5, 0.5]);
  splitAngle: number = $state(0);
  /** What differences are multiplied with. */
  gain: number = $state(8);
  /** How much of the other picture lies over this one. */
  opacity: number = $state(0.5);
  /** Values that become black and white; null to fit them to the picture. */
  range: readonly [number, number] | null = $state.raw(null);

  get look(): Look {
    return { exposure: this.exposure, gamma: this.gamma, transform: this.transform, table: this.table };
  }

  /** Whether the picture is seen as it is, all of its channels: what false colours or a single channel show is not the picture. */
  get showsAll(): boolean {
    return this.channel === 'all' && this.only === null && !this.falseColour;
  }

  /** Shows the picture itself: compared with nothing, all of its channels and lines. */
  showAsItIs(): void {
    this.channel = 'all';
    this.only = null;
    this.falseColour = false;
    this.reduce = 1;
    this.fetched = null;
    if (this.against !== '') this.lastAgainst = this.against;
    this.against = '';
  }

  turnExposure(stops: number): void {
    this.exposure = Math.min(20, Math.max(-20, Math.round((this.exposure + stops) * 100) / 100));
  }

  turnGamma(by: number): void {
    this.gamma = Math.min(5, Math.max(0.1, Math.round((this.gamma + by) * 100) / 100));
  }

  /** Everything that changes what colours look like, back to how the picture is. */
  reset(): void {
    this.exposure = 0;
    this.gamma = 1;
    this.transform = 'srgb';
    this.table = null;
    this.channel = 'all';
    this.only = null;
    this.readAs = null;
    this.falseColour = false;
    this.markRange = false;
    this.alpha = 'as said';
    this.range = null;
  }
}
