import * as z from 'zod';

/** Columns of the table of files, as they can be sorted by. */
export const fileColumns = ['path', 'pass', 'frame', 'state', 'size', 'modified', 'kind', 'host', 'samples'] as const;
export type FileColumn = (typeof fileColumns)[number];

/** What the table shows of one file. */
export const fileRowSchema = z.object({
  path: z.string(),
  pass: z.string(),
  frame: z.number(),
  /** A letter of the ribbon's states. */
  state: z.string(),
  size: z.number(),
  modified: z.number(),
  /** Size in pixels, depth and compression in a few words. */
  kind: z.string(),
  host: z.string().nullable(),
  samples: z.number().nullable(),
});
export type FileRow = z.output<typeof fileRowSchema>;

/** Which rows are asked for, in which order. */
export const rowQuerySchema = z.object({
  from: z.coerce.number().int().min(0).default(0),
  count: z.coerce.number().int().min(1).max(1000).default(200),
  sort: z.enum(fileColumns).default('path'),
  down: z.enum(['0', '1']).default('0'),
  pass: z.string().max(200).default(''),
  /** Part of the path. */
  text: z.string().max(200).default(''),
  /** `trouble` leaves out what is sound. */
  only: z.enum(['all', 'trouble']).default('all'),
});
export type RowQuery = z.output<typeof rowQuerySchema>;

export const rowPageSchema = z.object({ total: z.number(), from: z.number(), rows: z.array(fileRowSchema) });

/** Figures of the assay that the ribbon can show under the passes. */
export const measuredLanes = ['noise', 'temporalNoise', 'meanLuminance', 'fireflies'] as const;
export type MeasuredLane = (typeof measuredLanes)[number];
const values = z.array(z.number().nullable());
const measuredSchemas = { noise: values, temporalNoise: values, meanLuminance: values, fireflies: values } satisfies Record<MeasuredLane, unknown>;

/** A pass's figures over its frames; several lanes of the ribbon. */
export const figuresSchema = z.object({
  frames: z.array(z.number()),
  sizes: z.array(z.number()),
  /** Places in `hosts`; -1 where the file does not say. */
  host: z.array(z.number()),
  hosts: z.array(z.string()),
  /** What the assay measured of the same frames; null where it has not, or of other ones. */
  measured: z.object({ frames: z.array(z.number()), ...measuredSchemas }).nullable(),
});
export type Figures = z.output<typeof figuresSchema>;
