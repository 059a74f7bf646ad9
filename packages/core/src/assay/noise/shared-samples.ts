import { median } from '../../statistics.ts';
import { alongSome } from '../some-pixels.ts';
import type { NoiseBuffers } from './buffers.ts';

/*
 * Most renderers write albedo and normals as means over the very samples of the picture. Where two things meet in a pixel, both
 * say how much of it each covers, and both are off by the same chance: a regression on the features takes that for structure.
 * How far they are off the features tell themselves: where one flat thing ends before another, the line between both wavers.
 */

/** Pixels across an edge whose sum tells where it runs, with those of flat surface to either side of them. */
const ACROSS = 5;
const FLAT = 2;
const REACH = ACROSS + 2 * FLAT;
/** Differences along an edge: of a straight one they are zero, of a curved one next to it. */
const ALONG = [1, -3, 3, -1] as const;
/** What lies beside an edge is flat to this share of the step from the one side to the other. */
const HOW_FLAT = 0.05;
/** Features are about as large as 1: smaller steps are none. */
const LEAST_STEP = 1e-3;
/** Fewer edges tell nothing; and of larger pictures so many pixels are enough to find them. */
const ENOUGH = 60;
const ENOUGH_PIXELS = 40_000;
/** What both sides cover of an edge's pixels, multiplied: a sixth of a pixel a line where they are means, next to nothing where they show the middle of a pixel alone. */
const LEAST_MIXED = 0.07;
/** The median of the square of what is spread as a bell. */
const MEDIAN_OF_SQUARE = 0.455;

/** What was seen of edges. */
interface Edges {
  /** What each wavers by, squared, over what it would if a pixel that two things share were told by one sample. */
  readonly wavering: number[];
  squares: number;
  bySample: number;
  mixed: number;
  lines: number;
}

/**
 * The variance of what features say of a pixel that two things share, over p (1 - p) times the square of the step between
 * them, p what the one seems to cover: for n samples that fall anywhere 1 / (n - 1), as of what is seen p (1 - p) is smaller by
 * what it varies; less where they are spread over the pixel, and zero where features have no noise.
 *
 * @returns NaN where too few edges tell it
 */
export function waverOf({ width, height, albedo, normal }: Pick<NoiseBuffers, 'width' | 'height' | 'albedo' | 'normal'>): number {
  const edges: Edges = { wavering: [], squares: 0, bySample: 0, mixed: 0, lines: 0 };
  const planes = [...(albedo ? [albedo] : []), ...(normal ?? [])];
  alongSome(width, height, ENOUGH_PIXELS, (y, line, first, end) => {
    for (const plane of planes) {
      for (let x = first; x < end; x++) {
        if (x + REACH <= width && y + ALONG.length <= height) addEdge(edges, plane, line + x, 1, width);
        if (y + REACH <= height && x + ALONG.length <= width) addEdge(edges, plane, line + x, width, 1);
      }
    }
  });
  const { wavering, squares, bySample, mixed, lines } = edges;
  if (lines < ENOUGH * ALONG.length) return NaN;
  if (mixed < LEAST_MIXED * lines) return 0;
  // The mean tells more, and a few corners that are taken for edges spoil it.
  return Math.min(squares / bySample, median(wavering) / MEDIAN_OF_SQUARE);
}

/** Looks for an edge that begins at a place. @param across from a pixel to the next over the edge @param along from one line to the next */
function addEdge(edges: Edges, plane: Float32Array, at: number, across: number, along: number): void {
  const [before, after] = [plane[at]!, plane[at + (REACH - 1) * across]!];
  const step = after - before;
  if (!(Math.abs(step) > LEAST_STEP)) return;
  const most = HOW_FLAT * Math.abs(step);
  for (let row = 0; row < ALONG.length; row++) {
    const first = at + row * along;
    const last = first + (REACH - 1) * across;
    for (let i = 0; i < FLAT; i++) {
      if (!(Math.abs(plane[first + i * across]! - before) < most && Math.abs(plane[last - i * across]! - after) < most)) return;
    }
  }
  let [waver, bySample, mixed] = [0, 0, 0];
  for (let row = 0; row < ALONG.length; row++) {
    const weight = ALONG[row]!;
    for (let i = FLAT; i < FLAT + ACROSS; i++) {
      const share = (plane[at + row * along + i * across]! - before) / step;
      if (!(share > -HOW_FLAT && share < 1 + HOW_FLAT)) return;
      const covered = Math.min(1, Math.max(0, share));
      waver += weight * covered;
      bySample += weight * weight * covered * (1 - covered);
      mixed += covered * (1 - covered);
    }
  }
  edges.mixed += mixed;
  edges.lines += ALONG.length;
  if (bySample === 0) return;
  edges.wavering.push((waver * waver) / bySample);
  edges.squares += waver * waver;
  edges.bySample += bySample;
}

/** What lies within pixels, tile by tile, as means over them. */
export interface SharedPixels {
  /** The variance of luminance within them, of all and of those that several things share; zero where no pass tells which. */
  readonly within: Float64Array;
  readonly withinShared: Float64Array;
  /** The share of these. */
  readonly share: Float64Array;
}

/** Of the variance of noise, what a pixel seems to hold within itself for it: of those that things share, and of all. */
const NOISE_IN_SHARED = 0.4;
const NOISE_IN_ALL = 0.68;

/**
 * For each frame of a shot, what gives back what features took of its noise, as far as the samples of the picture are theirs.
 * Nor is there less noise anywhere than the same samples leave of what lies within pixels: of a lamp in a mirror a few tell, and
 * a fit explains them. Frames of which too few edges tell waver as the others do.
 *
 * @param widening what variances are multiplied by in the end, for the pixel filter; what lies within pixels is told behind it
 */
export function givingBackAtEdges(
  frames: readonly { readonly waver: number; readonly shared: SharedPixels }[],
  widening: number,
): ((variances: Float64Array) => Float64Array)[] {
  const told = frames.map(({ waver }) => waver).filter(Number.isFinite);
  const usual = told.length > 0 ? median(told) : 0;
  return frames.map(({ waver: own, shared: { within, withinShared, share } }) => {
    const waver = (Number.isNaN(own) ? usual : own) / widening;
    const sampled = (held: number, ofNoise: number) => waver * Math.max(0, held - ofNoise);
    return (variances) =>
      variances.map((noise, tile) => {
        const withShared = noise + sampled(withinShared[tile]!, NOISE_IN_SHARED * share[tile]! * noise);
        return Math.max(withShared, sampled(within[tile]!, NOISE_IN_ALL * noise));
      });
  });
}
