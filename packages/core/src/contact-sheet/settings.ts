import * as z from 'zod';
import { movieSettingsSchema } from '../movie/index.ts';

/** Pictures of all passes together that one sheet shows at most. */
export const MOST_PICTURES = 2000;

/** What a contact sheet is to show. */
export const contactSheetSettingsSchema = z.object({
  /** One picture, or pages that can be printed. */
  form: z.enum(['png', 'pdf']).default('png'),
  passes: z.array(z.string().max(200)).min(1, 'Choose a pass at least.').max(200),
  /** Some of the frames, in range notation; all where it is empty. */
  range: z.string().max(100_000).default(''),
  /** Pictures of each pass at most, spread evenly over its frames. */
  most: z.number().int().min(1, 'One picture a pass at least.').max(MOST_PICTURES, `At most ${MOST_PICTURES} pictures a pass.`).default(48),
  columns: z.number().int().min(1, 'One column at least.').max(16, 'At most 16 columns.').default(6),
  ground: z.enum(['dark', 'light']).default('dark'),
  ...{ view: movieSettingsSchema.shape.view, exposure: movieSettingsSchema.shape.exposure, background: movieSettingsSchema.shape.background },
  /** A line under the title. */
  note: z.string().trim().max(200).default(''),
});
export type ContactSheetSettings = z.output<typeof contactSheetSettingsSchema>;
