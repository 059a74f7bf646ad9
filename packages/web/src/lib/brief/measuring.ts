import * as z from 'zod';

/** What a job of measuring came to, as the page reads it. */
export const measureResultSchema = z.object({
  source: z.string(),
  tests: z.array(z.object({ samples: z.number(), noise: z.number().nullable(), seconds: z.number().nullable() })),
  seeds: z.enum(['independent', 'continued', 'unknown']),
  spread: z.number(),
  gradients: z.object({ pixels: z.number(), span: z.number(), noise: z.number(), share: z.number() }).nullable(),
  bytesPerPixel: z.number(),
  left: z.array(z.object({ name: z.string(), why: z.string() })),
});
export type MeasureResult = z.output<typeof measureResultSchema>;

/** What is needed to measure test frames of a shot. */
export interface Measuring {
  readonly shotId: number;
  /** Names of the render services that can make test frames. */
  readonly services: readonly string[];
  readonly roots: readonly { readonly name: string; readonly path: string }[];
  /** A frame in the middle of the range. */
  readonly middleFrame: number | null;
  /** The newest that was measured for the shot. */
  readonly newest: { readonly jobId: number; readonly result: MeasureResult } | null;
}
