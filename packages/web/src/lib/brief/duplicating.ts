import * as z from 'zod';

/** What giving a brief to another shot would change there. */
export const shotChangeSchema = z.object({
  id: z.number(),
  name: z.string(),
  /** Version of its brief that this was worked out from. */
  version: z.number(),
  differences: z.array(z.object({ entry: z.string(), before: z.string().nullable(), after: z.string().nullable() })),
  /** Why it cannot be given to this shot; empty when it can. */
  problem: z.string(),
});
export type ShotChange = z.output<typeof shotChangeSchema>;

export const duplicateAnswerSchema = z.object({ changes: z.array(shotChangeSchema) });
