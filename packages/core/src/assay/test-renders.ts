import { fitLine, type TestRender } from '../brief/index.ts';
import type { Luminance } from './luminance.ts';
import { mean, median } from '../statistics.ts';
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
  /** How far the pairs agree on the law of the error: largest by smallest of what they differ by from it. 1 is perfect. */
  readonly spread: number;
}

interface Pair {
  /** The one with fewer samples, and the other. */
  readonly m: Render;
  readonly n: Render;
  /** Mean square of their difference. */
  readonly square: number;
}

/**
 * Noise of renders of one frame at several sample counts, from their differences: the picture
 * cancels in them, so no texture is taken for noise. Independent seeds give D(m, n)^2 = v(m) + v(n) with
 * v(n) = a^2 / n + b^2 / n^1.5 (see `NoiseFit`), a render that continues the other a^2 (1/m - 1/n) (m < n). Two renders of the
 * same count give its noise directly.
 */
export function measureTestRenders(renders: readonly Render[]): MeasuredTests {
  const sorted = [...renders].sort((a, b) => a.samples - b.samples);
  const pairs: Pair[] = [];
  sorted.forEach((m, i) => {
    for (const n of sorted.slice(i + 1)) {
      const square = pairDifference(m.luminance, n.luminance) ** 2;
      // The same bytes twice say nothing.
      if (square > 0) pairs.push({ m, n, square });
    }
  });
  const unequal = pairs.filter(({ m, n }) => m.samples !== n.samples);
  // Two different renders of one count have seeds of their own, so none continues another.
  const seeds: Seeds = pairs.length < 2 ? 'unknown' : unequal.length === pairs.length && goesOn(pairs) ? 'continued' : 'independent';
  const law = fitPairs(seeds === 'continued' ? unequal : pairs, seeds);
  const counts = [...new Set(sorted.map(({ samples }) => samples))];
  const tests = counts.map((samples): TestRender => {
    const same = pairs.filter(({ m, n }) => m.samples === samples && n.samples === samples).map(({ square }) => square / 2);
    const times = renders.filter((render) => render.samples === samples).flatMap(({ seconds }) => (seconds === null ? [] : [seconds]));
    // The quickest: what made another slower, a start or a neighbour, is not the frame's own cost.
    const variance = same.length > 0 ? mean(same) : law.square / samples + law.sooner / samples ** 1.5;
    return { samples, noise: variance > 0 ? Math.sqrt(variance) : null, seconds: times.length > 0 ? Math.min(...times) : null };
  });
  return { tests, seeds, spread: law.spread };
}

/** Between the halves at most that independent renders give below, and the 1 that continued ones do. */
const GOES_ON = 0.75;

/**
 * Whether longer renders go on where shorter ones ended. Of three renders, (D(1,3)^2 + D(2,3)^2 - D(1,2)^2) / 2 is the
 * longest's own variance where seeds are independent, at most half of D(2,3)^2; where each goes on, its error is a part of
 * the shorter ones' errors, and it is all of D(2,3)^2. No law of the error is needed for that.
 */
function goesOn(pairs: readonly Pair[]): boolean {
  const squareOf = (m: Render, n: Render) => pairs.find((pair) => pair.m === m && pair.n === n)?.square;
  const shares = pairs.flatMap(({ m, n: middle, square }) =>
    pairs.flatMap((behind) => {
      const whole = behind.m === middle ? squareOf(m, behind.n) : undefined;
      return whole === undefined ? [] : [(whole + behind.square - square) / (2 * behind.square)];
    }),
  );
  return shares.length > 0 && median(shares) > GOES_ON;
}

/** Renders of so small a share of the most samples say less of it: what is sampled evenly clears up faster at first, and rare paths are rarer. */
const SMALLEST_SHARE = 1 / 4;
/**
 * And how much sooner than by the square root law noise falls they say too large. In pictures of so many pixels half of it is
 * believed, and the more of it the more pixels even out chance, which falls with the root of their number.
 */
const HALF_BELIEVED = 14_400;
const believedOf = ({ width, height }: Luminance) => 1 / (1 + Math.sqrt(HALF_BELIEVED / (width * height)));

/** Variance over samples, square / n + sooner / n^1.5, and how far all pairs agree on it. */
interface PairLaw {
  readonly square: number;
  readonly sooner: number;
  readonly spread: number;
}

/**
 * The law by the pairs that come near the most samples, in the geometric middle, as they are off by shares of themselves; and
 * by all of them how much sooner than by the square root law it falls.
 */
function fitPairs(pairs: readonly Pair[], seeds: Seeds): PairLaw {
  if (pairs.length === 0) return { square: 0, sooner: 0, spread: 1 };
  const points = pairs.map(({ m, n, square }) => {
    const weight = 1 / m.samples + (seeds === 'continued' ? -1 : 1) / n.samples;
    return { m, n, square: square / weight, edges: (m.samples ** -1.5 + n.samples ** -1.5) / weight };
  });
  const most = Math.max(...pairs.map(({ n }) => n.samples));
  const nearest = points.filter(({ m }) => m.samples >= most * SMALLEST_SHARE);
  const near = nearest.length > 0 ? nearest : points;
  const middle = Math.exp(mean(near.map(({ square }) => Math.log(square))));
  const line = seeds === 'continued' ? null : fitLine(points.map(({ square, edges }) => ({ x: edges, y: square, weight: square ** -2 })));
  const edges = mean(near.map((point) => point.edges));
  const sooner = Math.min(believedOf(pairs[0]!.m.luminance) * (line?.q ?? 0), middle / edges);
  const square = middle - sooner * edges;
  const off = points.map((point) => point.square / (square + sooner * point.edges));
  return { square, sooner, spread: Math.sqrt(Math.max(...off) / Math.min(...off)) };
}
