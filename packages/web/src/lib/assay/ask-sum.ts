import * as z from 'zod';
import { askWhenAtRest } from './ask-tiles';

const sumPicturedSchema = z.object({
  /** A picture that is clear where the lights sum to the beauty. */
  address: z.string().startsWith('data:image/png;base64,'),
  /** Share of the pixels where they do not. */
  share: z.number(),
});
export type SumPictured = z.output<typeof sumPicturedSchema>;

/** Where the lights of a frame do not sum to its beauty, or why it is not known. */
export type AskedSum = SumPictured | { readonly why: string };

/** Asks where the lights of a frame do not sum to its beauty. @returns to want it no longer */
export function askSum(shotId: number, frame: number, onanswer: (answer: AskedSum) => void): () => void {
  return askWhenAtRest(`/shots/${shotId}/assay/sum?frame=${frame}`, (answer) =>
    onanswer(answer.ok ? sumPicturedSchema.parse(answer.value) : { why: answer.refused }),
  );
}
