import { lookUpColour, type LookupTable } from './cube.ts';
import { encodeSRgb } from './srgb.ts';

/** How scene-linear light becomes what a screen shows. */
export const viewTransforms = ['srgb', 'rec709', 'linear', 'log'] as const;
export type ViewTransform = (typeof viewTransforms)[number];

/** What a person turns while looking. */
export interface Look {
  /** Stops, factors of two. */
  readonly exposure: number;
  /** Over the exposed light, before the view; 1 changes nothing. */
  readonly gamma: number;
  readonly transform: ViewTransform;
  /** Applied to what the view gives; null or absent for none. */
  readonly table?: LookupTable | null;
}

/** Middle grey, and how many stops the log view shows below and above it. */
const MIDDLE_GREY = 0.18;
const LOG_BELOW = 9;
const LOG_ABOVE = 7;

/** Linear light of a value that integer formats keep (IEC 61966-2-1). */
export function decodeSRgb(value: number): number {
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
}

/**
 * One channel of scene-linear light as a screen shows it, 0..1. The shader in the viewer does the same sums.
 *
 * Rec. 709 is shown as its reference monitor decodes it: a power of 2.4 (ITU-R BT.1886). The log view spreads 16 stops
 * around middle grey evenly.
 */
export function seeChannel(value: number, look: Look): number {
  return Math.min(1, encodeChannel(value, look));
}

/** One channel as the view gives it: above 1 where there is more light than it shows. */
function encodeChannel(value: number, { exposure, gamma, transform }: Look): number {
  if (Number.isNaN(value)) return 0;
  const exposed = Math.max(0, value) * 2 ** exposure;
  const light = gamma === 1 ? exposed : exposed ** (1 / gamma);
  return encode(light, transform);
}

function encode(light: number, transform: ViewTransform): number {
  switch (transform) {
    case 'srgb':
      return encodeSRgb(light);
    case 'rec709':
      return light ** (1 / 2.4);
    case 'linear':
      return light;
    case 'log':
      return light <= 0 ? 0 : Math.max(0, (Math.log2(light / MIDDLE_GREY) + LOG_BELOW) / (LOG_BELOW + LOG_ABOVE));
  }
}

/** Red, green and blue as a screen shows them. */
export function seeColour([r, g, b]: readonly [number, number, number], look: Look): [number, number, number] {
  if (!look.table) return [seeChannel(r, look), seeChannel(g, look), seeChannel(b, look)];
  const seen = lookUpColour(look.table, [encodeChannel(r, look), encodeChannel(g, look), encodeChannel(b, look)]);
  return seen.map((value) => Math.min(1, Math.max(0, value))) as [number, number, number];
}

/** A band of the false colours: luminance from so many stops around middle grey on. */
export interface StopBand {
  /** The lowest stop of the band; -Infinity for the lowest band. */
  readonly from: number;
  /** sRGB, 0..255. */
  readonly colour: readonly [number, number, number];
}

/**
 * False colours of luminance, a band for every stop around middle grey. Lightness rises from band to band, so that the
 * order can be told without the hues too.
 */
export const stopBands: readonly StopBand[] = [
  { from: -Infinity, colour: [10, 6, 26] },
  { from: -6, colour: [38, 20, 84] },
  { from: -5, colour: [40, 46, 130] },
  { from: -4, colour: [24, 84, 150] },
  { from: -3, colour: [14, 116, 144] },
  { from: -2, colour: [22, 140, 118] },
  { from: -1, colour: [80, 158, 84] },
  { from: 0, colour: [148, 148, 148] },
  { from: 1, colour: [190, 178, 60] },
  { from: 2, colour: [226, 176, 44] },
  { from: 3, colour: [240, 160, 90] },
  { from: 4, colour: [246, 178, 158] },
  { from: 5, colour: [250, 212, 214] },
  { from: 6, colour: [255, 250, 250] },
];
