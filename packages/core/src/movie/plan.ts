import type { Order } from '../brief/index.ts';
import { MintError } from '../errors.ts';
import { FrameSet } from '../ranges/index.ts';
import { allowsDropFrame, durationSeconds, formatTimecode, parseFrameRate, type FrameRate } from '../timing/index.ts';
import { needsEvenSides } from './encoder.ts';
import type { MovieSettings } from './settings.ts';

/** Raised when a movie cannot be made as it was asked for. */
export class MovieError extends MintError {
  constructor(code: 'movie' | 'encoder' | 'movie-exists', message: string, remedy: string, subject: string | null = null) {
    super(code, message, { remedy, subject });
  }
}

/** One picture of a movie. */
export interface MoviePicture {
  readonly frame: number;
  /** Path below the shot's folder; null where no file is there, and a slate stands in. */
  readonly file: string | null;
  /** Of the other sequence; null where it has none. */
  readonly other: string | null;
  readonly timecode: string;
}

/** What a movie shows, in order. */
export interface MoviePlan {
  readonly pictures: readonly MoviePicture[];
  readonly rate: FrameRate;
  /** Exactly: pictures by the rate. */
  readonly seconds: number;
  /** How far into the shot the movie begins, in seconds. */
  readonly startsAt: number;
  /** Frames that have no file. */
  readonly slates: FrameSet;
}

/**
 * Works out the pictures of a movie: each ordered frame of a pass in its order, those without a file as slates.
 *
 * @param range some of the frames; null for all
 * @param fileOf the file of a frame; null where there is none
 * @throws MovieError when the pass has none of the frames
 */
export function planMovie(
  { brief, frames: shotFrames, passes }: Order,
  passIndex: number,
  range: FrameSet | null,
  fileOf: (frame: number) => string | null,
  otherOf: (frame: number) => string | null = () => null,
): MoviePlan {
  const rate = parseFrameRate(brief.fps ?? '24');
  const { pass, frames: all } = passes[passIndex]!;
  const frames = range === null ? all : all.intersection(range);
  if (frames.isEmpty) throw new MovieError('movie', `${pass.name} has none of the frames ${range ?? brief.range}.`, 'Name frames that the brief orders.');
  const first = shotFrames.first ?? frames.first!;
  const dropFrame = (brief.dropFrame ?? false) && allowsDropFrame(rate);
  const pictures = [...frames].map((frame): MoviePicture => ({
    ...{ frame, file: fileOf(frame), other: otherOf(frame) },
    // As the status bar and the viewer tell it: counted from the shot's first frame.
    timecode: formatTimecode(frame - first, rate, dropFrame),
  }));
  return {
    pictures,
    rate,
    seconds: durationSeconds(pictures.length, rate),
    startsAt: Math.max(0, durationSeconds(frames.first! - first, rate)),
    slates: FrameSet.of(pictures.filter(({ file }) => file === null).map(({ frame }) => frame)),
  };
}

/**
 * The size of a movie's picture: what was asked for, else the frame's own with its pixels made square, the wider way. Sides that
 * have to be even are made so by one more pixel.
 */
export function movieSize(
  { size, codec, arrange }: MovieSettings,
  [width, height]: readonly [number, number],
  pixelAspect: number,
  hasOther: boolean,
): [number, number] {
  const even = (side: number) => (needsEvenSides(codec) ? side + (side % 2) : side);
  if (size) return [even(size[0]), even(size[1])];
  const square: readonly [number, number] = pixelAspect >= 1 ? [Math.round(width * pixelAspect), height] : [width, Math.round(height / pixelAspect)];
  return [even(square[0] * (hasOther && arrange === 'beside' ? 2 : 1)), even(square[1])];
}

/** The lines that stand in a picture: in its upper left, lower left and lower right corner. */
export function burnInLines(
  { brief }: Order,
  passName: string,
  { burnIn, note }: MovieSettings,
  { frame, timecode }: Pick<MoviePicture, 'frame' | 'timecode'>,
): readonly [string, string, string] {
  if (!burnIn) return [note, '', ''];
  return [note, [brief.shot, brief.version, passName].filter(Boolean).join('  '), `${frame}  ${timecode}`];
}
