import * as z from 'zod';

/** What a receipt's file says that it is. */
export const RECEIPT_KIND = 'mint-tally-receipt';

/** What the other side says of a package that arrived: a small file that goes back. */
export const receiptSchema = z.object({
  kind: z.literal(RECEIPT_KIND),
  /** Name of the shot, as the package says it; empty where it does not. */
  shot: z.string().max(1000),
  /** Checksum of the manifest as it arrived: names the package. */
  manifestSha256: z.string().regex(/^[0-9a-f]{64}$/),
  valid: z.boolean(),
  /** Whether nothing but what was waived stands against the frames, counted again. */
  ready: z.boolean(),
  files: z.number().int().min(0),
  bytes: z.number().min(0),
  problems: z.array(z.object({ code: z.string().max(40), file: z.string().max(5000), message: z.string().max(5000) })).max(10_000),
  person: z.string().trim().max(200),
  at: z.iso.datetime(),
});
export type Receipt = z.output<typeof receiptSchema>;
