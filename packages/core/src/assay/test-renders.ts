import type { TestRender } from '../brief/index.ts';
import type { Luminance } from './luminance.ts';
import { pairDifference } from './pair-noise.ts';

/** One render of the same frame. */
export interface Render {
  readonly samples: number;
  /** Null where nobody noted it. */
  readonly seconds: number | null;
  readonly luminance: Luminance;
}

/** How the renders of one frame go together. */
export type Seeds =
  /** Each has random numbers of its own: their errors have nothing to do with each other. */
  | 'independent'
  /** A longer render goes on where the shorter ended. */
  | 'continued'
  /** Too few renders to tell; taken for independent. */
  | 'unknown';

/** What test renders of one frame say: a row for each number of samples, fewest first. */
export interface MeasuredTests {
  readonly tests: readonly TestRender[];
  readonly seeds: Seeds;
  /** How far the pairs agree on the law of the error: largest by smallest of a. 1 is perfect. */
  readonly spread: number;
}

/**
 * Noise of renders of one frame at several sample counts, from their differences: the picture
 * cancels in them, so no texture is taken for noise. Independent seeds give
 * D(m, n)^2 = a^2 (1/m + 1/n), a render that continues the other a^2 (1/m - 1/n) (m < n); whichever
 * fits the pairs better is taken. Two renders of the same count give its noise directly.
 */
export function measureTestRenders(renders: readonly Render[]): MeasuredTests {
  const pairs: { m: Render; n: Render; square: number }[] = [];
  renders.forEach((m, i) => {
    for (const n of renders.slice(i + 1)) {
      const square = pairDifference(m.luminance, n.luminance) ** 2;
      // The same bytes twice say nothing.
      if (square > 0) pairs.push(m.samples <= n.samples ? { m, n, square } : { m: n, n: m, square });
    }
  });
  const independent = fitPairs(pairs.map(({ m, n, square }) => square / (1 / m.samples + 1 / n.samples)));
  const unequal = pairs.filter(({ m, n }) => m.samples !== n.samples);
  // Two different renders of one count have seeds of their own, so none continues another.
  const mayContinue = unequal.length === pairs.length && pairs.length >= 3;
  const continued = fitPairs(unequal.map(({ m, n, square }) => square / (1 / m.samples - 1 / n.samples)));
  const seeds: Seeds = pairs.length < 2 ? 'unknown' : mayContinue && continued.spread < independent.spread ? 'continued' : 'independent';
  const law = seeds === 'continued' ? continued : independent;
  const counts = [...new Set(renders.map(({ samples }) => samples))].sort((a, b) => a - b);
  const tests = counts.map((samples): TestRender => {
    const same = pairs.filter(({ m, n }) => m.samples === samples && n.samples === samples).map(({ square }) => square / 2);
    const times = renders.filter((render) => render.samples === samples).flatMap(({ seconds }) => (seconds === null ? [] : [seconds]));
    // The quickest: what made another slower, a start or a neighbour, is not the frame's own cost.
    const variance = same.length > 0 ? mean(same) : law.square / samples;
    return { samples, noise: variance > 0 ? Math.sqrt(variance) : null, seconds: times.length > 0 ? Math.min(...times) : null };
  });
  return { tests, seeds, spread: law.spread };
}

function mean(values: readonly number[]): number {
  return values.reduce((sum, value) => sum + value, 0) / values.length;
}

/** The square of a by the pairs, in the geometric middle, as they are off by shares of themselves. */
function fitPairs(squares: readonly number[]): { square: number; spread: number } {
  if (squares.length === 0) return { square: 0, spread: 1 };
  return { square: Math.exp(mean(squares.map(Math.log))), spread: Math.sqrt(Math.max(...squares) / Math.min(...squares)) };
}
