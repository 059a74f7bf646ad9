import * as z from 'zod';
import { durationSeconds, type FrameRate } from '../timing/index.ts';
import type { MovieSettings } from './settings.ts';

/** What ffprobe prints of a movie's pictures, as far as it is held against the plan. */
export const probedSchema = z.object({
  streams: z
    .array(
      z.object({
        codec_name: z.string().default(''),
        width: z.number(),
        height: z.number(),
        r_frame_rate: z.string().default(''),
        avg_frame_rate: z.string().default(''),
        color_space: z.string().optional(),
        color_primaries: z.string().optional(),
        color_transfer: z.string().optional(),
        color_range: z.string().optional(),
        nb_read_frames: z.coerce.number().optional(),
      }),
    )
    .min(1),
  format: z.object({ duration: z.coerce.number().optional() }),
});
export type ProbedMovie = z.output<typeof probedSchema>;

/** What a movie should be when it is read back. */
export interface ExpectedMovie {
  readonly settings: MovieSettings;
  readonly frames: number;
  readonly rate: FrameRate;
  readonly width: number;
  readonly height: number;
}

/** Blocks that lie so many of 255 levels apart in the mean are no matter of packing any more: another picture, or other colours. */
const MOST_DIFFERENCE = 14;

/** Holds what was read back against what was fed. @param differences mean differences of the first and the last picture, of 255 */
export function judgeMovie({ streams: [stream], format }: ProbedMovie, expected: ExpectedMovie, differences: readonly number[]): string[] {
  const { settings, frames, rate, width, height } = expected;
  const video = stream!;
  const problems: string[] = [];
  const tell = (what: string, is: unknown, wanted: unknown) => problems.push(`it has ${what} ${String(is)} where ${String(wanted)} was fed`);
  if (video.nb_read_frames !== frames) tell('a number of frames of', video.nb_read_frames, frames);
  if (video.width !== width || video.height !== height) tell('a size of', `${video.width} x ${video.height}`, `${width} x ${height}`);
  // The clock of a GIF counts hundredths of a second and cannot tell such a rate.
  if (settings.codec !== 'gif' && settings.codec !== 'webp') {
    const wanted = `${rate.numerator}/${rate.denominator}`;
    if (video.r_frame_rate !== wanted && frames > 1) tell('a rate of', video.r_frame_rate, wanted);
    const seconds = durationSeconds(frames, rate);
    // A container's clock of thousandths, and the end of the sound's last packet.
    if (format.duration === undefined || Math.abs(format.duration - seconds) > 0.03)
      tell('a length of', `${format.duration ?? 'no'} s`, `${seconds.toFixed(3)} s`);
    for (const tag of [video.color_space, video.color_primaries, video.color_transfer]) if (tag !== 'bt709') tell('a colour tag of', tag ?? 'none', 'bt709');
  }
  differences.forEach((difference, i) => {
    if (difference > MOST_DIFFERENCE)
      problems.push(`its ${i === 0 ? 'first' : 'last'} picture is another: ${difference.toFixed(1)} of 255 levels apart in the mean`);
  });
  return problems;
}

/** Pixels across and down whose mean is compared: what packing does to a single pixel, above all to its colour, is no matter. */
const BLOCK = 8;

/** How far two pictures lie apart in the mean, by the means of small blocks; three bytes a pixel, of 255. */
export function meanDifference(one: Uint8Array, other: Uint8Array, width: number): number {
  if (one.length !== other.length || one.length === 0) return 255;
  const height = one.length / (3 * width);
  let [sum, weight] = [0, 0];
  for (let top = 0; top < height; top += BLOCK)
    for (let left = 0; left < width; left += BLOCK)
      for (let c = 0; c < 3; c++) {
        let difference = 0;
        const [bottom, right] = [Math.min(height, top + BLOCK), Math.min(width, left + BLOCK)];
        for (let y = top; y < bottom; y++) for (let x = left; x < right; x++) difference += one[(y * width + x) * 3 + c]! - other[(y * width + x) * 3 + c]!;
        sum += Math.abs(difference);
        weight += (bottom - top) * (right - left);
      }
  return sum / weight;
}
