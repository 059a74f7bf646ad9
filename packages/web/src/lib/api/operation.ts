import * as z from 'zod';

/** Something that the API can be asked: what it takes, what it gives, and what is said of it to people. The document is made of these, and the routes parse by them. */
export interface Operation<Query extends z.ZodType = z.ZodType, Body extends z.ZodType = z.ZodType, Answer extends z.ZodType = z.ZodType> {
  readonly method: 'get' | 'post' | 'put' | 'delete';
  /** With the parts that vary in braces: all of them are numbers of things. */
  readonly path: string;
  readonly step: 'Shots' | 'Brief' | 'Batch' | 'Tally' | 'View' | 'Assay' | 'Mend' | 'Handoff' | 'Jobs';
  readonly summary: string;
  /** More of it, where the summary does not say enough. */
  readonly says?: string;
  readonly query?: Query;
  readonly body?: Body;
  /** What is given back as JSON. */
  readonly answer?: Answer;
  /** What is given back instead, where it is no JSON. */
  readonly mediaType?: string;
  /** Status of an answer that went well. */
  readonly status?: 200 | 201 | 202;
}

/** Keeps the schemas' types of an operation that is written down. */
export const define = <Query extends z.ZodType = z.ZodUndefined, Body extends z.ZodType = z.ZodUndefined, Answer extends z.ZodType = z.ZodUndefined>(
  operation: Operation<Query, Body, Answer>,
) => operation;

/** What is given back where something could not be done. */
export const problemSchema = z.object({
  message: z.string().describe('What happened, to which file'),
  remedy: z.string().describe('What can be done; empty where nothing is known'),
  problems: z
    .array(z.object({ field: z.string(), message: z.string() }))
    .optional()
    .describe('What is wrong with the request, field by field'),
  givenUp: z.array(z.string()).optional().describe('What waiving these gives up; send it again with this list to agree'),
});
