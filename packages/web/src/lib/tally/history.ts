import { changesSchema } from '@mint-tally/core';
import * as z from 'zod';

const countEntrySchema = z.object({
  id: z.number(),
  countedAt: z.string(),
  actor: z.string(),
  briefVersion: z.number(),
  expected: z.number(),
  sound: z.number(),
  blockers: z.number(),
  findings: z.number(),
  changes: changesSchema.nullable(),
});
/** One of the counts that are kept of a shot. */
export type CountEntry = z.output<typeof countEntrySchema>;

export const historySchema = z.array(countEntrySchema);
