import * as z from 'zod';
import { describeError } from '../errors.ts';
import type { FrameSet } from './frame-set.ts';
import { parseFrameSet } from './notation.ts';

/** A set of frames as it stands in JSON: range notation, or the empty string for none. */
export const frameSetSchema = z.string().transform((text, context): FrameSet => {
  try {
    return parseFrameSet(text);
  } catch (thrown) {
    context.addIssue({ code: 'custom', message: describeError(thrown) });
    return z.NEVER;
  }
});
