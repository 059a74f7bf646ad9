import { statSync } from 'node:fs';
import { open, rm, stat, statfs } from 'node:fs/promises';
import path from 'node:path';
import {
  burnInLines,
  encoderArguments,
  formatFrameRate,
  formatFrameRange,
  FrameSet,
  MovieError,
  movieSize,
  type MoviePicture,
  type MoviePlan,
  type MovieSettings,
} from '@mint-tally/core';
import { moveInto, type HeldFolder } from '@mint-tally/disk';
import { unfinishedName } from '../packaging/unfinished.ts';
import type { DrawnFrame } from '../drawing/draw-frame.ts';
import { FrameDrawer, fileOf, slateOf, type ShownSequence } from '../drawing/frame-drawer.ts';
import { Encoder } from './encoder.ts';
import { readBack } from './read-back.ts';

export interface MovieOptions {
  readonly shown: ShownSequence;
  /** Another sequence beside it, or in the other half; its files are named by the plan. */
  readonly other: ShownSequence | null;
  readonly plan: MoviePlan;
  readonly settings: MovieSettings;
  /** Real path of a sound file; null for none. */
  readonly sound: string | null;
  /** The folder that the movie is made in, and its name there, which must not be taken. */
  readonly parent: HeldFolder;
  readonly name: string;
  /** Tells this write's unfinished file from others beside it. */
  readonly aside: string;
  readonly threads: number;
  readonly stopped: () => boolean;
  /** Told after each picture; `bytes` is how large the file will be, where that is known already. */
  readonly onProgress: (progress: { done: number; total: number; bytes: number | null }) => void;
  /** Called when the movie has been read back, right before it gets its name. */
  readonly onWhole?: (movie: MadeMovie) => Promise<void>;
}

/** A movie that was made and read back. */
export interface MadeMovie {
  readonly frames: number;
  readonly fps: string;
  readonly seconds: number;
  /** Frames that slates stand for: no file, or one that cannot be read. */
  readonly slates: string;
  readonly bytes: number;
  readonly width: number;
  readonly height: number;
  /** What a short test encode foretold; null where the movie is hardly longer than that. */
  readonly foretold: number | null;
  /** How far the first and the last picture lie from what was fed, in the mean, of 255 levels. */
  readonly differences: number[];
}

/** Pictures of a test encode, out of the middle; a movie that is not longer than four of them is simply made. */
const TEST_FRAMES = 24;

/**
 * Makes a review movie: what the viewer shows of each frame, packed by an encoder, read back and held against what was fed. It is
 * made under another name and gets its own when it is right; what was stopped or failed leaves nothing.
 *
 * @returns null when it was stopped
 * @throws MovieError, MintError
 */
export async function makeMovie(options: MovieOptions): Promise<MadeMovie | null> {
  const { parent, name, plan } = options;
  if (parent.has(name)) throw new MovieError('movie-exists', `There is a file ${name} already.`, 'Give the movie another name.', path.join(parent.path, name));
  const drawer = new FrameDrawer(options.threads);
  const target = path.join(parent.where(), unfinishedName(name, options.aside));
  try {
    const drawing = await begin(options, drawer);
    const isLong = plan.pictures.length > 4 * TEST_FRAMES;
    const foretold = isLong ? await foretell(options, drawing, target) : null;
    if (foretold !== null) await needSpace(parent, foretold);
    const made = await encode(options, drawing, plan.pictures, target, foretold);
    if (!made || options.stopped()) return null;
    const movie = await inspect(options, drawing, made, target, foretold);
    await options.onWhole?.(movie);
    await moveInto(parent, path.basename(target), parent, name);
    parent.sync();
    return movie;
  } finally {
    await rm(target, { force: true });
    await drawer.close();
  }
}

/** Draws pictures in threads, by what holds for all of them. */
interface Drawing {
  readonly width: number;
  readonly height: number;
  readonly draw: (picture: MoviePicture) => Promise<DrawnFrame>;
}

async function begin({ shown, other, plan, settings }: MovieOptions, drawer: FrameDrawer): Promise<Drawing> {
  const first = await drawer.look(shown, plan.pictures);
  const [width, height] = movieSize(settings, [first.width, first.height], first.pixelAspect, other !== null);
  const { pass } = shown.order.passes[shown.passIndex]!;
  const draw = (picture: MoviePicture) =>
    drawer.draw({
      ...{ shown: fileOf(shown, picture.file), other: other && fileOf(other, picture.other), hasOther: other !== null },
      ...{ settings, width, height, look: { reading: first.reading, range: first.range } },
      lines: burnInLines(shown.order, pass.name, settings, picture),
      slate: slateOf(pass.name, picture),
    });
  return { width, height, draw };
}

/** Bytes of the whole movie, by a stretch out of its middle; null when it was stopped. */
async function foretell(options: MovieOptions, drawing: Drawing, target: string): Promise<number | null> {
  const { pictures } = options.plan;
  const from = Math.floor((pictures.length - TEST_FRAMES) / 2);
  const stretch = pictures.slice(from, from + TEST_FRAMES);
  if (!(await encode({ ...options, sound: null, onProgress: () => undefined }, drawing, stretch, target, null))) return null;
  const { size } = await stat(target);
  await rm(target, { force: true });
  return Math.round((size * pictures.length) / TEST_FRAMES);
}

async function needSpace(parent: HeldFolder, bytes: number): Promise<void> {
  const { bavail, bsize } = await statfs(parent.where());
  if (bavail * bsize < bytes * 1.1)
    throw new MovieError(
      'movie',
      'There is not room enough for the movie, by a test of its middle.',
      'Make room, choose a lower quality, or write it elsewhere.',
      parent.path,
    );
}

interface Encoded {
  readonly ends: readonly [Uint8Array, Uint8Array];
  readonly slates: readonly number[];
}

/** Feeds an encoder with pictures that are drawn ahead, in order. @returns null when it was stopped */
async function encode(
  options: MovieOptions,
  drawing: Drawing,
  pictures: readonly MoviePicture[],
  target: string,
  bytes: number | null,
): Promise<Encoded | null> {
  const { settings, plan, sound, threads, stopped } = options;
  const seconds = (pictures.length * plan.rate.denominator) / plan.rate.numerator;
  const encoder = new Encoder(
    encoderArguments({
      settings,
      rate: plan.rate,
      width: drawing.width,
      height: drawing.height,
      seconds,
      target,
      sound: sound === null ? null : { file: sound, from: plan.startsAt },
    }),
  );
  const ahead: Promise<DrawnFrame>[] = [];
  let [drawn, first, last]: [number, Uint8Array | null, Uint8Array | null] = [0, null, null];
  const slates: number[] = [];
  try {
    for (const [i, picture] of pictures.entries()) {
      for (; drawn < pictures.length && drawn <= i + threads; drawn++) {
        const next = drawing.draw(pictures[drawn]!);
        next.catch(() => undefined);
        ahead.push(next);
      }
      const { data, why } = await ahead.shift()!;
      if (why !== '') slates.push(picture.frame);
      if (stopped()) return null;
      await encoder.feed(data);
      first ??= data;
      last = data;
      options.onProgress({ done: i + 1, total: pictures.length, bytes });
    }
    await encoder.finish();
    return { ends: [first!, last!], slates };
  } finally {
    await encoder.kill();
    await Promise.allSettled(ahead);
  }
}

async function inspect(
  options: MovieOptions,
  { width, height }: Drawing,
  { ends, slates }: Encoded,
  target: string,
  foretold: number | null,
): Promise<MadeMovie> {
  const { plan, settings } = options;
  const frames = plan.pictures.length;
  const { differences } = await readBack(target, { settings, frames, rate: plan.rate, width, height }, ends);
  const file = await open(target, 'r');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
  return {
    ...{ frames, fps: formatFrameRate(plan.rate), seconds: plan.seconds, slates: formatFrameRange(FrameSet.of(slates)) },
    ...{ bytes: statSync(target).size, width, height, foretold, differences },
  };
}
