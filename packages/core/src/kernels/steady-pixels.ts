import { eachPixel } from './pixel-by-pixel.ts';

/** What a frame is before its neighbours are let in, plane by plane. */
export interface OwnPixels {
  readonly luminance: Float32Array;
  /** Squares of what the filter left around each pixel, and the standard deviation of what was there before. */
  readonly left: Float32Array;
  readonly deviation: Float32Array;
  /** Steps from pixel to pixel. */
  readonly across: Float32Array;
  readonly down: Float32Array;
}

/** A neighbour that was brought onto it. */
export interface Brought {
  readonly grey: Float32Array;
  /** Squares of what the filter left around its pixels; -1 where it does not show the same. */
  readonly left: Float32Array;
  /** The places that each pixel was brought from. */
  readonly x: Float32Array;
  readonly y: Float32Array;
}

/**
 * What a neighbour differs by at each pixel, over what noise explains of it, once more no larger than `most`; and what it is
 * worth beside the frame's own, from 0 to 1.
 *
 * @param halfWay what is brought from between two pixels errs by so much of the step from one to the other
 * @param least variance that there always is
 */
export function weighedBeside(own: OwnPixels, brought: Brought, halfWay: number, least: number, most: number) {
  const [apart, capped, worth] = [new Float32Array(own.left.length), new Float32Array(own.left.length), new Float32Array(own.left.length)];
  const given = [own.luminance, brought.grey, own.left, brought.left, own.deviation, brought.x, brought.y, own.across, own.down];
  const filled = [apart, capped, worth];
  eachPixel({ given, filled }, (exports, [luminance, grey, left, theirs, deviation, x, y, across, down, a, c, w], count) =>
    exports.weighNeighbour(luminance!, grey!, left!, theirs!, deviation!, x!, y!, across!, down!, halfWay, least, most, count, a!, c!, w!),
  );
  return { apart, capped, worth };
}

/** What something may differ by, over what noise explains, and how many times it counts beyond that. */
export interface Bounds {
  readonly free: number;
  readonly ghost: number;
}

/**
 * The share that each pixel takes of a neighbour: it is added to `weights`, and what was not trusted to `refused`.
 *
 * @param means what the neighbour differs by, in two means, each with its bounds: the stricter one counts
 */
export function shareOf(
  means: readonly [readonly [Float32Array, Bounds], readonly [Float32Array, Bounds]],
  { left }: Brought,
  worth: Float32Array,
  weights: Float32Array,
  refused: Float32Array,
): Float32Array {
  const [[around, wide], [next, narrow]] = means;
  const share = new Float32Array(worth.length);
  eachPixel({ given: [around, next, left, worth], changed: [weights, refused], filled: [share] }, (exports, [a, n, theirs, worths, w, r, out], count) =>
    exports.shareNeighbour(a!, n!, wide.ghost, wide.free, narrow.ghost, narrow.free, theirs!, worths!, count, out!, w!, r!),
  );
  return share;
}
