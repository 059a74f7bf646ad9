/** One test frame: how many samples, and what came of it. */
export interface TestRender {
  readonly samples: number;
  /** Standard deviation of the sampling error; null where it was not measured. */
  readonly noise: number | null;
  /** Null where it was not timed. */
  readonly seconds: number | null;
}

/**
 * Noise over samples: sigma(n)^2 = a^2 / n + b^2 / n^1.5 + c^2. The first part is the Monte Carlo error, which falls as the
 * square root of the samples; the second that of edges whose samples are spread evenly over the pixel, which falls sooner
 * (Mitchell 1996, Consequences of stratified sampling in graphics); c is what more samples do not take away.
 */
export interface NoiseFit {
  readonly a: number;
  readonly b: number;
  /** 0 where b is not. */
  readonly c: number;
  /** Fewest and most samples that it was fitted to. */
  readonly from: number;
  readonly to: number;
}

/** Seconds over samples: t(n) = t0 + t1 n. t0 is what a frame costs before its first sample. */
export interface TimeFit {
  readonly t0: number;
  readonly t1: number;
  readonly from: number;
  readonly to: number;
}

/** A point of a line, and what it counts. */
interface Point {
  readonly x: number;
  readonly y: number;
  readonly weight: number;
}

/** Weighted least squares of y = p + q x with both p and q at least 0; null without two distinct x. */
export function fitLine(points: readonly Point[]): { p: number; q: number } | null {
  let [w, wx, wy, wxx, wxy] = [0, 0, 0, 0, 0];
  for (const { x, y, weight } of points) {
    w += weight;
    wx += weight * x;
    wy += weight * y;
    wxx += weight * x * x;
    wxy += weight * x * y;
  }
  const determinant = w * wxx - wx * wx;
  if (new Set(points.map((point) => point.x)).size < 2 || !(determinant > 0)) return null;
  const q = (w * wxy - wx * wy) / determinant;
  const p = (wy - q * wx) / w;
  // At a bound the best point lies on it (Lawson and Hanson 1974, non-negative least squares).
  if (p < 0) return { p: 0, q: Math.max(0, wxy / wxx) };
  if (q < 0) return { p: wy / w, q: 0 };
  return { p, q };
}

/**
 * Fits noise to test frames. Squares are weighted by their own size: an estimate of a variance is off by a share of itself, not
 * by an amount. A floor is fitted where noise falls slower than the square root law, and edges where it falls sooner.
 *
 * @returns null without two sample counts
 */
export function fitNoise(tests: readonly TestRender[]): NoiseFit | null {
  const used = tests.flatMap(({ samples, noise }) => (noise !== null && noise > 0 && samples > 0 ? [{ samples, variance: noise * noise }] : []));
  const slower = fitLine(used.map(({ samples, variance }) => ({ x: 1 / samples, y: variance, weight: variance ** -2 })));
  if (!slower) return null;
  if (slower.p > 0) return { a: Math.sqrt(slower.q), b: 0, c: Math.sqrt(slower.p), ...reach(used) };
  const sooner = fitLine(used.map(({ samples, variance }) => ({ x: samples ** -0.5, y: variance * samples, weight: (variance * samples) ** -2 })))!;
  return { a: Math.sqrt(sooner.p), b: Math.sqrt(sooner.q), c: 0, ...reach(used) };
}

/** Fits time to test frames. @returns null without two sample counts */
export function fitTime(tests: readonly TestRender[]): TimeFit | null {
  const used = tests.flatMap(({ samples, seconds }) => (seconds !== null && seconds > 0 && samples > 0 ? [{ samples, seconds }] : []));
  const line = fitLine(used.map(({ samples, seconds }) => ({ x: samples, y: seconds, weight: 1 / (seconds * seconds) })));
  return line && { t0: line.p, t1: line.q, ...reach(used) };
}

function reach(used: readonly { samples: number }[]): { from: number; to: number } {
  const counts = used.map(({ samples }) => samples);
  return { from: Math.min(...counts), to: Math.max(...counts) };
}

export function noiseAt({ a, b, c }: NoiseFit, samples: number): number {
  return Math.sqrt(a ** 2 / samples + b ** 2 / samples ** 1.5 + c ** 2);
}

export function secondsAt(fit: TimeFit, samples: number): number {
  return fit.t0 + fit.t1 * samples;
}

/** Samples that bring the noise down to a target, rounded up; null when no number does. */
export function samplesForNoise({ a, b, c }: NoiseFit, target: number): number | null {
  const room = target * target - c * c;
  if (!(room > 0)) return null;
  return Math.max(1, Math.ceil(samplesForVariance(a * a, b * b, room) - 1e-9));
}

/**
 * Where law / n + sooner / n^1.5 has come down to a variance, which is above 0; 0 where there is neither. In u = 1 / sqrt(n)
 * that is a curve that only rises, and bends upwards, so that Newton's steps from above do not leave it.
 */
export function samplesForVariance(law: number, sooner: number, variance: number): number {
  if (law === 0 && sooner === 0) return 0;
  let u = Math.min(law > 0 ? Math.sqrt(variance / law) : Infinity, sooner > 0 ? Math.cbrt(variance / sooner) : Infinity);
  for (let step = u; step > u * 1e-14; u -= step) step = (u * u * (law + sooner * u) - variance) / (u * (2 * law + 3 * sooner * u));
  return 1 / (u * u);
}

/** Samples that a number of seconds pays for, rounded down; 0 when not even one. */
export function samplesForSeconds(fit: TimeFit, seconds: number): number {
  if (fit.t1 === 0) return seconds >= fit.t0 ? Number.MAX_SAFE_INTEGER : 0;
  return Math.max(0, Math.floor((seconds - fit.t0) / fit.t1 + 1e-9));
}

/** How many times beyond the measured samples a number lies; 1 inside them. */
export function timesOutside(fit: { from: number; to: number }, samples: number): number {
  return Math.max(1, samples / fit.to, fit.from / samples);
}

/** Seconds until the last of the machines is done: whole frames, shared out as evenly as they go. */
export function wallSeconds(frames: number, secondsPerFrame: number, machines: number): number {
  return Math.ceil(frames / Math.max(1, machines)) * secondsPerFrame;
}
