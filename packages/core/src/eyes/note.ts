import * as z from 'zod';
import { frameSetSchema } from '../ranges/index.ts';

const pixel = z.number().int().min(-1_000_000).max(1_000_000);

/** A note that somebody pins to frames of a pass, and where in the picture. */
export const noteSchema = z.object({
  pass: z.string().min(1).max(100),
  frames: frameSetSchema.refine((frames) => !frames.isEmpty, 'A note needs a frame.'),
  /** Left, top, width and height in pixels of the display window; null for the whole picture. */
  rectangle: z.tuple([pixel, pixel, pixel.min(1), pixel.min(1)]).nullable(),
  text: z.string().trim().min(1, 'A note says something.').max(2000, 'A note has at most 2,000 characters.'),
});
export type Note = z.output<typeof noteSchema>;
