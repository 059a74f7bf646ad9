import type { Plane } from '../../formats/index.ts';
import { rounded } from './channel-facts.ts';
import type { AlphaFacts } from './schema.ts';
import { valueTable } from './values.ts';

const ENOUGH_PIXELS = 100_000;
/** A step of 8 bits and a half; rounding alone makes colours exceed their alpha by as much. */
const MARGIN = 0.006;

/**
 * Measures how an alpha stands to its colours: multiplied-in colours fade with it and seldom
 * exceed it; straight ones do not know of it.
 */
export function measureAlpha(alpha: Plane, colours: readonly Plane[]): AlphaFacts {
  const pixels = alpha.width * alpha.height;
  const step = Math.max(1, Math.floor(pixels / ENOUGH_PIXELS));
  const alphaTable = valueTable(alpha.type);
  const colourTables = colours.map((plane) => valueTable(plane.type));
  const sums = { min: Infinity, max: -Infinity, seen: 0, partial: 0, exceeding: 0, none: 0, colourWithoutAlpha: 0 };
  const thin = { sum: 0, count: 0 };
  const thick = { sum: 0, count: 0 };
  for (let i = 0; i < pixels; i += step) {
    const covered = read(alpha, alphaTable, i);
    if (!Number.isFinite(covered)) continue;
    sums.seen++;
    if (covered < sums.min) sums.min = covered;
    if (covered > sums.max) sums.max = covered;
    if (covered >= 0.98) continue;
    let colour = 0;
    for (let c = 0; c < colours.length; c++) {
      const component = read(colours[c]!, colourTables[c]!, i);
      if (component > colour) colour = component;
    }
    if (covered <= 0) {
      sums.none++;
      if (colour > MARGIN) sums.colourWithoutAlpha++;
    }
    if (covered <= 0.02 || !Number.isFinite(colour)) continue;
    sums.partial++;
    if (colour > covered + MARGIN) sums.exceeding++;
    const band = covered <= 1 / 3 ? thin : covered >= 2 / 3 ? thick : null;
    if (band) {
      band.sum += colour;
      band.count++;
    }
  }
  const share = (part: number, whole: number) => (whole > 0 ? rounded(part / whole) : 0);
  return {
    min: sums.seen > 0 ? rounded(sums.min) : 0,
    max: sums.seen > 0 ? rounded(sums.max) : 0,
    partial: share(sums.partial, sums.seen),
    exceeding: share(sums.exceeding, sums.partial),
    thinColour: thin.count > 0 ? rounded(thin.sum / thin.count) : null,
    thickColour: thick.count > 0 ? rounded(thick.sum / thick.count) : null,
    colourWithoutAlpha: share(sums.colourWithoutAlpha, sums.none),
  };
}

function read({ data, offset, stride }: Plane, table: ReturnType<typeof valueTable>, pixel: number): number {
  const stored = data[offset + pixel * stride];
  return table ? table[stored] : stored;
}
