import { mergeRequestSchema } from '@mint-tally/store';
import * as z from 'zod';

/** What somebody wants of a merge. */
export const mergeControlSchema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('preview'), request: mergeRequestSchema }),
  z.object({ action: z.literal('run'), merge: z.number().int().positive() }),
  z.object({ action: z.literal('undo'), merge: z.number().int().positive() }),
]);
