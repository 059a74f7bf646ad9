import { contactSheetSettingsSchema, movieSettingsSchema, parseFrameRange, readColour } from '@mint-tally/core';
import * as z from 'zod';

/** A path below a root, as people name folders and files. */
const below = (what: string) =>
  z
    .string()
    .trim()
    .min(1, `A ${what} is needed.`)
    .max(200)
    .regex(/^[A-Za-z0-9_][A-Za-z0-9_.-]*(\/[A-Za-z0-9_][A-Za-z0-9_.-]*)*$/, 'Use letters, digits, dot, dash and underscore; / for folders.');
/** Who says so. @param where the name will stand */
const personOf = (where: string) => z.string().trim().min(1, `A name is needed: it stands in the ${where}.`).max(200);
/** Whoever verified a package. */
export const verifierField = personOf('receipt');
const rangeField = z
  .string()
  .trim()
  .max(100_000)
  .default('')
  .superRefine((text, context) => {
    try {
      if (text !== '') parseFrameRange(text);
    } catch (thrown) {
      context.addIssue({ code: 'custom', message: (thrown as Error).message });
    }
  });
const isSet = z
  .string()
  .optional()
  .transform((value) => value !== undefined);
/** A package as it is asked for. */
export const packageFormSchema = z.object({
  root: z.string(),
  folder: below('folder name'),
  person: personOf('package'),
  passes: z.array(z.string().max(200)).max(1000),
  /** Whether passes could be chosen at all: then none is none, and not all. */
  choosesPasses: isSet,
  range: rangeField,
  withoutHandles: isSet,
  form: z.enum(['folder', 'tar']).default('folder'),
  volumes: z
    .union([z.literal('').transform(() => null), z.coerce.number('A number of gigabytes is needed.').positive('A volume is larger than 0.').max(1e6)])
    .default(null),
  taking: z.enum(['copy', 'clone', 'link']).default('copy'),
  sums: z.array(z.enum(['sha512', 'xxh64'])).max(2),
  since: z.union([z.literal('').transform(() => null), z.coerce.number().int().positive()]).default(null),
  note: z.string().max(20_000).default(''),
});

/** How pictures look. */
const looks = {
  view: movieSettingsSchema.shape.view,
  exposure: z.coerce.number('A number of stops is needed.').min(-32).max(32).default(0),
  background: z
    .string()
    .max(20)
    .default('')
    .transform((text, context) => {
      const colour = text.trim() === '' ? null : readColour(text);
      if (text.trim() !== '' && colour === null) context.addIssue({ code: 'custom', message: 'Write black, white, grey or #rrggbb.' });
      return colour;
    }),
};

/** A review movie as it is asked for. */
export const movieFormSchema = z.object({
  root: z.string(),
  file: below('file name'),
  pass: z.string().min(1).max(200),
  range: rangeField,
  codec: movieSettingsSchema.shape.codec,
  quality: z.coerce.number().min(0).max(100).default(80),
  bitrate: z.union([z.literal('').transform(() => null), z.coerce.number('A number of megabits is needed.').positive().max(2000)]).default(null),
  width: z.union([z.literal('').transform(() => null), z.coerce.number().int().min(16).max(8192)]).default(null),
  height: z.union([z.literal('').transform(() => null), z.coerce.number().int().min(16).max(8192)]).default(null),
  ...looks,
  burnIn: isSet,
  everyFrameKey: isSet,
  withSound: isSet,
  note: z.string().trim().max(200).default(''),
  otherPass: z.string().max(200).default(''),
  /** Another version's folder, whose files are named alike; both empty for the shot's own. */
  otherRoot: z.string().max(32).default(''),
  otherFolder: z.string().max(2048).default(''),
  arrange: z.enum(['beside', 'split']).default('beside'),
});

/** A contact sheet as it is asked for. */
export const sheetFormSchema = z.object({
  root: z.string(),
  file: below('file name'),
  form: z.enum(['png', 'pdf']),
  passes: z.array(z.string().max(200)).min(1, 'Choose a pass at least.').max(200),
  range: rangeField,
  most: z.coerce.number('A number of pictures is needed.').pipe(contactSheetSettingsSchema.shape.most.unwrap()),
  columns: z.coerce.number('A number of columns is needed.').pipe(contactSheetSettingsSchema.shape.columns.unwrap()),
  ground: z.enum(['dark', 'light']),
  ...looks,
  note: z.string().trim().max(200).default(''),
});

/** What is wrong with a form, field by field. */
export const fieldsOf = ({ issues }: z.ZodError) => Object.fromEntries(issues.map((issue) => [String(issue.path[0]), issue.message]));
