import * as z from 'zod';
import { formatFrameRange, type FrameSet, parseFrameSet } from '../ranges/index.ts';
import { frameCounts, STRENGTHS } from './settings.ts';

/** Strengths that are tried at a time: more are not told apart by looking. */
export const MOST_STRENGTHS = 4;
/** Engines that share one run at most. */
export const SEATS = 4;

/** The pass that a result is, and how its files are named. */
const targetSchema = z.object({ name: z.string().min(1).max(100), pattern: z.string().min(1).max(1024) });

/** What is asked for of a pass: a test of some strengths, or a range by one of them. */
export const denoiseRequestSchema = z
  .object({
    purpose: z.enum(['test', 'range']),
    pass: z.string().min(1).max(100),
    strengths: z.array(z.number().min(STRENGTHS.least).max(STRENGTHS.most)).min(1).max(MOST_STRENGTHS),
    /** Frames that take part in one. */
    frames: z.literal([...frameCounts]),
    /** Frames that are wanted, in range notation. */
    range: z.string().min(1).max(100_000),
    /** Of a test: left, top, width and height of the part of the picture that is tried; null for all of it. */
    region: z.tuple([z.number().int().min(0), z.number().int().min(0), z.number().int().positive(), z.number().int().positive()]).nullable(),
    /** Of a range: what becomes of it. */
    target: targetSchema.nullable(),
    /** Of a range: lights that go along with the pass by its weights, and what becomes of each. */
    lights: z
      .array(z.object({ pass: z.string().min(1).max(100), target: targetSchema }))
      .max(1000)
      .default([]),
    /** When the noise was measured that it goes by, in milliseconds since 1970; null where it is measured along the way. */
    measuredAt: z.number().nullable(),
  })
  .refine(({ purpose, strengths, target, lights }) => (purpose === 'test' ? lights.length === 0 : strengths.length === 1 && target !== null));
export type DenoiseRequest = z.output<typeof denoiseRequestSchema>;

/** What a part of a run came to. */
export const denoiseFiguresSchema = z.object({
  written: z.number(),
  /** Of those, the ones that the means are of: what was there already, and nobody noted, tells nothing any more. Null in what was kept before this was. */
  told: z.number().nullable().default(null),
  /** These frames in range notation; empty in what was kept before they were noted. */
  frames: z.string().default(''),
  /** Means over frames; null where nothing is known. */
  noiseBefore: z.number().nullable(),
  noise: z.number().nullable(),
  temporalBefore: z.number().nullable(),
  temporalNoise: z.number().nullable(),
  /** Share of the detail at edges that is kept, and whether it was held against a better render. */
  detail: z.number().nullable(),
  isReferred: z.boolean(),
  /** Frames that were filtered, those beside the wanted ones too; seconds that a frame of many takes a thread; and threads. */
  filtered: z.number(),
  secondsEach: z.number(),
  threads: z.number(),
  /** Frames in range notation that no file fills, and that could not be read. */
  missing: z.string(),
  unreadable: z.string(),
  fireflies: z.number(),
  holes: z.number(),
  lacking: z.array(z.string()),
  /** Lights that went along, and the frames in range notation in which they could not. */
  lights: z.array(z.object({ pass: z.string(), missing: z.string() })).default([]),
});
export type DenoiseFigures = z.output<typeof denoiseFiguresSchema>;

/** Frames of a range that an engine takes at a time, for each of its threads: those beside them are filtered for two, so many cost less. */
export const STRETCH = 24;

/**
 * How long a range takes, as a test says: whoever takes some filters the frames beside them too.
 *
 * @returns seconds, or null where the test filtered nothing
 */
export function secondsForRange({ filtered, secondsEach, threads }: DenoiseFigures, frameCount: number, frames: number): number | null {
  if (filtered === 0) return null;
  const stretches = Math.max(1, Math.ceil(frameCount / (STRETCH * threads)));
  return ((frameCount + stretches * (frames - 1)) * secondsEach) / threads;
}

/** What each light that goes along takes of a frame's time: halves in zip, of 1920 x 1080. */
const OF_A_LIGHT = 0.4;

/** How many times as long a range takes with some lights that go along. */
export const timesWithLights = (lights: number): number => 1 + OF_A_LIGHT * lights;

/** Frames that means are of. */
export const toldBy = ({ told, written }: DenoiseFigures): number => told ?? written;

/** Which frames those are, as far as it was noted. */
export const framesTold = ({ frames }: Pick<DenoiseFigures, 'frames'>): FrameSet => parseFrameSet(frames);

/** Mean of a figure over some figures, by the frames that each is of; null where none knows it. */
export function meanFigure(all: readonly DenoiseFigures[], key: 'noiseBefore' | 'noise' | 'temporalBefore' | 'temporalNoise' | 'detail'): number | null {
  const known = all.filter((one) => one[key] !== null);
  const frames = known.reduce((sum, one) => sum + toldBy(one), 0);
  return frames === 0 ? null : known.reduce((sum, one) => sum + one[key]! * toldBy(one), 0) / frames;
}

/** What frames came to that were done in two sittings. @param now of the second, which knows what is there by then, and tells of other frames */
export function joinSittings(before: DenoiseFigures, now: DenoiseFigures): DenoiseFigures {
  const both = [before, now];
  const sumOf = (key: 'filtered' | 'fireflies' | 'holes') => before[key] + now[key];
  const filtered = sumOf('filtered');
  return {
    ...now,
    told: toldBy(before) + toldBy(now),
    frames: formatFrameRange(framesTold(before).union(framesTold(now))),
    noiseBefore: meanFigure(both, 'noiseBefore'),
    noise: meanFigure(both, 'noise'),
    temporalBefore: meanFigure(both, 'temporalBefore'),
    temporalNoise: meanFigure(both, 'temporalNoise'),
    detail: meanFigure(both, 'detail'),
    isReferred: before.isReferred || now.isReferred,
    filtered,
    secondsEach: filtered === 0 ? 0 : (before.filtered * before.secondsEach + now.filtered * now.secondsEach) / filtered,
    fireflies: sumOf('fireflies'),
    holes: sumOf('holes'),
  };
}
