import type { FrameRate } from './rate.ts';

/** What happens at the end of what is played. */
export const loopModes = ['around', 'back and forth', 'once'] as const;
export type LoopMode = (typeof loopModes)[number];

/** How a stretch of `count` places is played from one of them on. */
export interface Course {
  readonly count: number;
  /** The place that is shown at the beginning, from 0. */
  readonly start: number;
  readonly direction: 1 | -1;
  readonly loop: LoopMode;
}

/**
 * How many places time has moved on: a place lasts `hold` frames of the rate, and every one is worked out from the
 * beginning, so that nothing adds up over hours.
 *
 * @param seconds since the beginning
 */
export function placesAfter(seconds: number, { numerator, denominator }: FrameRate, hold = 1): number {
  return Math.max(0, Math.floor((seconds * numerator) / (denominator * hold)));
}

/** The place that is shown after so many, and whether the time of the last one is over (only when played once). */
export function placeAfter(passed: number, { count, start, direction, loop }: Course): { place: number; ended: boolean } {
  if (count <= 1) return { place: 0, ended: loop === 'once' && passed > 0 };
  switch (loop) {
    case 'around':
      return { place: modulo(start + direction * passed, count), ended: false };
    case 'once': {
      const wanted = start + direction * passed;
      const place = Math.min(count - 1, Math.max(0, wanted));
      return { place, ended: wanted !== place };
    }
    case 'back and forth': {
      // There and back without showing either end twice.
      const turn = 2 * (count - 1);
      const place = modulo((direction > 0 ? start : turn - start) + passed, turn);
      return { place: place < count ? place : turn - place, ended: false };
    }
  }
}

/** The direction in which a course goes after so many places: only back and forth turns round. */
export function directionAfter(passed: number, { count, start, direction, loop }: Course): 1 | -1 {
  if (loop !== 'back and forth' || count <= 1) return direction;
  const turn = 2 * (count - 1);
  return modulo((direction > 0 ? start : turn - start) + passed, turn) < count - 1 ? 1 : -1;
}

const modulo = (value: number, by: number) => ((value % by) + by) % by;
