import * as z from 'zod';

/** A sound track as the server read it. */
export const soundSchema = z.object({ file: z.string(), samples: z.number(), sampleRate: z.number() });
