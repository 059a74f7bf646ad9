import type { ContactSheetSettings } from '@mint-tally/core';

type Colour = readonly [number, number, number];

/** Neutral, so that pictures can be judged on it: what lies behind them, and the letters upon it. */
export const GROUNDS: Record<ContactSheetSettings['ground'], { readonly paper: Colour; readonly strong: Colour; readonly soft: Colour }> = {
  dark: { paper: [28, 28, 28], strong: [232, 232, 232], soft: [168, 168, 168] },
  light: { paper: [255, 255, 255], strong: [20, 20, 20], soft: [88, 88, 88] },
};
