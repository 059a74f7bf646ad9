import { boxMean } from '../../kernels/index.ts';
import { FARTHEST, type NoiseBuffers } from './buffers.ts';

/** What a renderer's motion vectors mean. */
export interface Convention {
  /** 1 where they lead to where a point was, or will be; -1 where they lead from there. */
  readonly sign: 1 | -1;
  /** Whether the second component counts downwards, as lines do, or upwards. */
  readonly down: boolean;
  /** What 1 is: a pixel, the whole picture, or half of it (-1 to 1 across). */
  readonly unit: 'pixel' | 'picture' | 'half picture';
  /** Which neighbour they tell of. */
  readonly neighbour: 'before' | 'after';
}

export const USUAL_CONVENTION: Convention = { sign: 1, down: true, unit: 'pixel', neighbour: 'before' };

const UNITS = { pixel: 'in pixels', picture: 'as shares of the picture', 'half picture': 'from -1 to 1 across the picture' } as const;

/** A convention in words. */
export function sayConvention({ sign, down, unit, neighbour }: Convention): string {
  const where = neighbour === 'before' ? 'to where a point was a frame before' : 'to where a point is a frame after';
  return `${UNITS[unit]}, right and ${down ? 'down' : 'up'}, ${sign === 1 ? where : where.replace('to where', 'from where')}`;
}

/** All that are told apart, the usual one first. */
export const conventions: readonly Convention[] = (['before', 'after'] as const).flatMap((neighbour) =>
  (['pixel', 'half picture', 'picture'] as const).flatMap((unit) =>
    [true, false].flatMap((down) => ([1, -1] as const).map((sign): Convention => ({ sign, down, unit, neighbour }))),
  ),
);

/**
 * Vectors in pixels, right and down, to where a point was a frame before. Those that tell of the frame after are turned
 * round: what moves goes on about as it came.
 */
export function toPixels(
  [across, down]: readonly [Float32Array, Float32Array],
  convention: Convention,
  picture: { readonly width: number; readonly height: number },
): readonly [Float32Array, Float32Array] {
  const turned = convention.neighbour === 'before' ? 1 : -1;
  const [ofWidth, ofHeight] = scalesOf(convention, picture);
  const scaled = (values: Float32Array, by: number) => (by === 1 ? values : values.map((value) => value * by));
  return [scaled(across, turned * ofWidth), scaled(down, turned * ofHeight)];
}

/** What vectors are multiplied with to lead to the neighbour that the convention names, in pixels. */
function scalesOf({ sign, down, unit }: Convention, { width, height }: { readonly width: number; readonly height: number }): readonly [number, number] {
  const [ofWidth, ofHeight] = unit === 'pixel' ? [1, 1] : unit === 'picture' ? [width, height] : [width / 2, height / 2];
  return [sign * ofWidth, sign * ofHeight * (down ? 1 : -1)];
}

/** A frame with its raw vectors, as the file has them, and the frames beside it; null where there is none. */
export interface VectorWitness {
  readonly frame: NoiseBuffers;
  readonly vectors: readonly [Float32Array, Float32Array];
  readonly before: NoiseBuffers | null;
  readonly after: NoiseBuffers | null;
}

export interface FoundConvention {
  readonly convention: Convention;
  /** Residual of the found one, as a share of what is left when nothing is brought along; null where nothing decides. */
  readonly residual: number | null;
  /** The brief says it, and nothing was looked for. */
  readonly isSaid: boolean;
}

/** Vectors shorter than this share of the longest say nothing. */
const LEAST_SHARE = 0.05;
/** So many pixels must move for vectors to say anything. */
const LEAST_PIXELS = 64;
/** The best must leave less than this share of what any other leaves. */
const CONVINCING = 0.9;
/** Where it leaves less than this share, of so many pixels, no more frames are asked. */
const BEYOND_DOUBT = 0.6;
const BEYOND_CHANCE = 2_000;
/** Two that leave so much alike are not told apart. */
const ALIKE = 1.35;
/** Conventions that lead less far apart than this share of their way are not told apart either, and need not be. */
const SAME_WAY = 0.1;
/** A pixel that is thrown out of the picture counts as a difference so many times the usual one. */
const THROWN_OUT = 3;

/**
 * Finds what vectors mean by what they explain: each convention brings the neighbours onto the frame, and the one that
 * leaves least is taken. A still camera before still things says nothing, and does not decide.
 *
 * @param witnesses asked one after the other, and no further than is needed: each is read when it is asked
 */
export function findConvention(witnesses: Iterable<VectorWitness>): FoundConvention {
  const told: Told = { sums: conventions.map(() => 0), moved: conventions.map((): [number, number] => [0, 0]), pixels: 0 };
  let still = 0;
  for (const witness of witnesses) {
    const moving = movingPixels(witness);
    if (moving.length < LEAST_PIXELS) continue;
    const own = pictureOf(witness.frame);
    const [before, after] = [witness.before && pictureOf(witness.before), witness.after && pictureOf(witness.after)];
    if (!before && !after) continue;
    told.pixels += moving.length;
    const standing = [0, 0] as const;
    const usual = (differenceAt(moving, own, before ?? after!, witness, standing) + differenceAt(moving, own, after ?? before!, witness, standing)) / 2;
    still += usual * moving.length;
    const lengths = witness.vectors.map((values) => moving.reduce((sum, pixel) => sum + Math.abs(values[pixel]!), 0));
    conventions.forEach((convention, i) => {
      const other = convention.neighbour === 'before' ? before : after;
      const scales = scalesOf(convention, witness.frame);
      // A witness that has not this neighbour says nothing for or against.
      const left = other ? differenceAt(moving, own, other, witness, scales, usual * THROWN_OUT) : usual;
      told.sums[i] = told.sums[i]! + left * moving.length;
      const turned = convention.neighbour === 'before' ? 1 : -1;
      scales.forEach((scale, axis) => (told.moved[i]![axis] += turned * scale * lengths[axis]!));
    });
    const { best, doubt } = bestOf(told);
    // Which neighbour they tell of is a smaller difference than the others: where it is not the usual one, all are asked.
    if (told.pixels >= BEYOND_CHANCE && before && after && doubt < BEYOND_DOUBT && conventions[best]!.neighbour === 'before') break;
  }
  if (told.pixels === 0 || still === 0) return { convention: USUAL_CONVENTION, residual: null, isSaid: false };
  const { best, doubt } = bestOf(told);
  return doubt < CONVINCING
    ? { convention: conventions[best]!, residual: told.sums[best]! / still, isSaid: false }
    : { convention: USUAL_CONVENTION, residual: null, isSaid: false };
}

/** What witnesses have told of each convention. */
interface Told {
  /** Of differences that are left. */
  readonly sums: number[];
  /** How far it leads back, in pixels right and down, as if all vectors went the same way: sums over all pixels. */
  readonly moved: readonly [number, number][];
  pixels: number;
}

/**
 * The convention that leaves least, and what it leaves as a share of what any other does. Those that lead to nearly the same
 * places are no others: of both neighbours, and of both ways along an axis on which nothing moves.
 */
function bestOf({ sums, moved }: Told): { readonly best: number; readonly doubt: number } {
  const least = sums.indexOf(Math.min(...sums));
  const [across, down] = moved[least]!;
  const isSame = (i: number) => i === least || Math.hypot(moved[i]![0] - across, moved[i]![1] - down) < SAME_WAY * Math.hypot(across, down);
  const leastOf = (others: readonly number[]) => others.reduce((found, i) => (sums[i]! < sums[found]! ? i : found), others[0]!);
  const same = conventions.flatMap(({ neighbour }, i) => (neighbour === 'before' && isSame(i) ? [i] : []));
  // Vectors to where a point was are much like those from where it will be: the usual one is taken where they are alike.
  const twin = same.length > 0 ? leastOf(same) : least;
  const best = sums[twin]! <= ALIKE * sums[least]! ? twin : least;
  return { best, doubt: sums[least]! / Math.min(...sums.filter((_, i) => !isSame(i))) };
}

/** So many moving pixels of a picture tell its conventions apart. */
const ENOUGH = 12_000;

/** Pixels that move; of more than are enough, some all over the picture. */
function movingPixels({ vectors: [across, down] }: VectorWitness): number[] {
  let longest = 0;
  for (let i = 0; i < across.length; i++) {
    const square = across[i]! * across[i]! + down[i]! * down[i]!;
    if (square > longest && square < Infinity) longest = square;
  }
  const least = LEAST_SHARE * LEAST_SHARE * longest;
  // No multiple of a line, so that the columns differ from line to line.
  const every = 2 * Math.floor(across.length / ENOUGH / 2) + 1;
  const moving: number[] = [];
  if (longest > 0) for (let i = 0; i < across.length; i += every) if (across[i]! * across[i]! + down[i]! * down[i]! > least) moving.push(i);
  return moving;
}

/** What pictures are held against each other by: surfaces where a pass shows them without noise, else light without most of its noise. */
function pictureOf({ albedo, normal, depth, luminance, width, height }: NoiseBuffers): readonly Float32Array[] {
  if (albedo || normal) return [...(albedo ? [albedo] : []), ...(normal ?? [])];
  // Depth changes with the camera's way, but less than from one surface to another.
  if (depth) return [depth.map((z) => (z > 0 && z < FARTHEST ? Math.log(z) : 0))];
  return [
    boxMean(
      luminance.map((value) => Math.log1p(Math.max(0, Number.isFinite(value) ? value : 0))),
      width,
      height,
      1,
    ),
  ];
}

/** Mean absolute difference over the pixels, of the other frame brought along the vectors. @param scales what those are multiplied with */
function differenceAt(
  pixels: readonly number[],
  own: readonly Float32Array[],
  other: readonly Float32Array[],
  { vectors, frame: { width, height } }: VectorWitness,
  scales: readonly [number, number],
  thrownOut = 0,
): number {
  let sum = 0;
  for (const pixel of pixels) {
    const x = (pixel % width) + (scales[0] === 0 ? 0 : scales[0] * vectors[0][pixel]!);
    const y = Math.floor(pixel / width) + (scales[1] === 0 ? 0 : scales[1] * vectors[1][pixel]!);
    if (!(x >= 0 && y >= 0 && x <= width - 1 && y <= height - 1)) sum += thrownOut;
    else for (let c = 0; c < own.length; c++) sum += Math.abs(own[c]![pixel]! - between(other[c]!, x, y, width));
  }
  return sum / pixels.length;
}

/** The value between four pixels, in straight lines. */
function between(plane: Float32Array, x: number, y: number, width: number): number {
  const [left, top] = [Math.floor(x), Math.floor(y)];
  const [across, down] = [x - left, y - top];
  const at = top * width + left;
  const row = (start: number) => plane[start]! + (across > 0 ? (plane[start + 1]! - plane[start]!) * across : 0);
  return row(at) + (down > 0 ? (row(at + width) - row(at)) * down : 0);
}
