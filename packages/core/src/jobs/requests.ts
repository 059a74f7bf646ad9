import * as z from 'zod';
import { contactSheetSettingsSchema } from '../contact-sheet/index.ts';
import { denoiseRequestSchema } from '../denoise/index.ts';
import { packageWishSchema } from '../handoff/index.ts';
import { mendWishSchema } from '../mend/index.ts';
import { movieSettingsSchema } from '../movie/index.ts';

/** Renders of a test frame at every number of samples: two, so that their difference is the noise of either. */
export const RENDERS_EACH = 2;

/** Everything that an engine can be asked to do for a shot. The one place where kinds of jobs are named. */
export const jobRequestSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('count') }),
  z.object({ kind: z.literal('assay') }),
  z.object({
    kind: z.literal('measure'),
    source: z.discriminatedUnion('from', [
      /** Test frames that a render service makes for the purpose. */
      z.object({
        from: z.literal('service'),
        service: z.string().max(100),
        frame: z.number().int().min(-9_999_999).max(99_999_999),
        samples: z.array(z.number().int().positive().max(1_000_000)).min(2).max(8),
      }),
      /** Test frames that somebody rendered and put into a folder. */
      z.object({ from: z.literal('folder'), root: z.string().max(32), folder: z.string().max(2048) }),
    ]),
  }),
  /** A seat at a run of the filters: engines share it, one at each. */
  z.object({
    kind: z.literal('denoise'),
    run: z.number().int().positive(),
    seat: z.number().int().min(1).max(100),
    purpose: denoiseRequestSchema.shape.purpose.default('range'),
  }),
  z.object({ kind: z.literal('render'), batch: z.number().int().positive() }),
  z.object({ kind: z.literal('merge'), merge: z.number().int().positive(), action: z.enum(['preview', 'run', 'undo']) }),
  /**
   * A mend. `preview` works one out that takes looking into files; `apply` carries one out as it was previewed, for which `seen`
   * stands. The others name a mend by its journal: it is taken back, kept until some day, or what it set aside is let go.
   */
  z.object({
    kind: z.literal('mend'),
    action: z.enum(['preview', 'apply', 'undo', 'keep', 'let-go']),
    wish: mendWishSchema.nullable(),
    seen: z.string().max(64),
    until: z.iso.datetime().nullable().default(null),
  }),
  z.object({
    kind: z.literal('package'),
    root: z.string().max(32),
    folder: z.string().max(2048),
    person: z.string().max(200),
    wish: packageWishSchema.default(() => packageWishSchema.parse({})),
  }),
  /** A review movie of a pass; `other` is another folder of the same order, or another pass, beside it. */
  z.object({
    kind: z.literal('movie'),
    root: z.string().max(32),
    /** Below the root, its name included. */
    file: z.string().max(2048),
    pass: z.string().max(200),
    range: z.string().max(100_000).default(''),
    settings: movieSettingsSchema,
    withSound: z.boolean().default(false),
    other: z
      .object({ root: z.string().max(32), folder: z.string().max(2048), pass: z.string().max(200) })
      .nullable()
      .default(null),
  }),
  /** Verifies the package that a shot was opened from; `person` says so in the receipt. */
  z.object({ kind: z.literal('verify'), person: z.string().max(200) }),
  /** A contact sheet; `file` is below the root, its name included. */
  z.object({ kind: z.literal('sheet'), root: z.string().max(32), file: z.string().max(2048), settings: contactSheetSettingsSchema }),
]);
export type JobRequest = z.output<typeof jobRequestSchema>;
/** One as it is asked for: what is not said is as usual. */
export type JobAsk = z.input<typeof jobRequestSchema>;
export type JobKind = JobRequest['kind'];

export const jobKinds: readonly JobKind[] = jobRequestSchema.options.map((option) => option.shape.kind.value);

export const jobStates = ['queued', 'running', 'done', 'failed', 'cancelled'] as const;
export type JobState = (typeof jobStates)[number];

/** Why a job failed, in words for people. */
export const jobErrorSchema = z.object({ code: z.string(), message: z.string(), remedy: z.string() });
export type JobError = z.output<typeof jobErrorSchema>;

/** Whether a job takes hours, and goes on where it was: others that would have to wait for it go before it. */
export const givesWay = (request: JobRequest): boolean => request.kind === 'denoise' && request.purpose === 'range';

/** How far a job has come. */
export const jobProgressSchema = z.object({ phase: z.string(), done: z.number(), total: z.number(), bytesDone: z.number(), bytesTotal: z.number() });
export type JobProgress = Readonly<z.output<typeof jobProgressSchema>>;

/**
 * What a request stands for among those of its kind and shot. Of two that wait and stand for the same,
 * the newer takes the older one's place; those that stand for different things wait one behind the other.
 */
export function standsFor(request: JobRequest): string {
  if (request.kind === 'package') return `${request.root}/${request.folder}`;
  if (request.kind === 'movie' || request.kind === 'sheet') return `${request.root}/${request.file}`;
  if (request.kind === 'denoise') return `${request.run} ${request.seat}`;
  if (request.kind === 'render') return String(request.batch);
  // Only the newest preview is looked at.
  if (request.kind === 'mend') return request.action === 'preview' ? 'preview' : `${request.action} ${request.seen}`;
  // Only the newest preview is looked at; what changes files is never given up for another.
  if (request.kind === 'merge') return request.action === 'preview' ? 'preview' : `${request.action} ${request.merge}`;
  return '';
}
