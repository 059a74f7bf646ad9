import * as z from 'zod';

/** What is known of one frame of one pass, as the panel shows it. */
export const frameInfoSchema = z.object({
  /** Where the brief wants it. */
  ordered: z.string(),
  files: z.array(
    z.object({
      path: z.string(),
      size: z.number(),
      modified: z.number(),
      problem: z.string().nullable(),
      notExamined: z.string().nullable(),
      facts: z.array(z.tuple([z.string(), z.string()])),
      /** Address of its picture; null where it has none. */
      still: z.string().nullable(),
    }),
  ),
});
export type FrameInfo = z.output<typeof frameInfoSchema>;
