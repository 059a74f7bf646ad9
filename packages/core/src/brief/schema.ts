import * as z from 'zod';
import { describeError, MintError } from '../errors.ts';
import { sampleDepths } from '../formats/index.ts';
import { parseNamePattern } from '../naming/index.ts';
import { parseFrameRange } from '../ranges/index.ts';
import { allowsDropFrame, parseFrameRate } from '../timing/index.ts';
import { framesOfDuration } from './duration.ts';

/** What a pass is for; the design's list. */
export const passRoles = ['beauty', 'light', 'half', 'albedo', 'normal', 'depth', 'motion', 'occlusion', 'matte', 'id', 'other'] as const;
export type PassRole = (typeof passRoles)[number];

export const alphaKinds = ['none', 'straight', 'premultiplied'] as const;
export type AlphaKind = (typeof alphaKinds)[number];

export const severities = ['blocker', 'warning', 'note'] as const;
export type Severity = (typeof severities)[number];

/** Turns one of our parsers into a Zod check that tells the parser's own message at the field. */
function readableBy(parse: (text: string) => unknown) {
  return (text: string, context: z.core.$RefinementCtx<string>) => {
    const problem = problemOf(() => parse(text));
    if (problem !== null) context.addIssue({ code: 'custom', message: problem });
  };
}

/** What one of our own errors says of a text; null when it reads well. */
function problemOf(read: () => unknown): string | null {
  try {
    read();
    return null;
  } catch (thrown) {
    if (thrown instanceof MintError) return describeError(thrown);
    throw thrown;
  }
}

const range = z.string('A frame range is needed, such as 1001-1048.').max(100_000).superRefine(readableBy(parseFrameRange));
const pixels = z
  .number('A number of pixels is needed.')
  .int('Pixels are whole numbers.')
  .min(1, 'At least 1 pixel.')
  .max(1_000_000, 'At most 1,000,000 pixels.');
const resolution = z.tuple([pixels, pixels], 'Width and height are needed, such as [1920, 1080].');
const frameCount = z.number('A number of frames is needed.').int('Frames are whole.').min(0, 'Not fewer than none.').max(100_000, 'At most 100,000 frames.');
const channelName = z.string().min(1, 'A channel needs a name.').max(255);

export const briefPassSchema = z.object({
  name: z.string('A pass needs a name.').trim().min(1, 'A pass needs a name.').max(100, 'A pass name has at most 100 characters.'),
  role: z.enum(passRoles).optional(),
  pattern: z.string('A pass needs a name pattern.').superRefine(readableBy(parseNamePattern)),
  /** Frames of this pass where they differ from the shot's. */
  range: range.optional(),
  /** Size of this pass where it differs from the shot's. */
  resolution: resolution.optional(),
  channels: z.array(channelName).min(1).max(1024).optional(),
  depth: z.preprocess((value) => (typeof value === 'number' ? String(value) : value), z.enum(sampleDepths)).optional(),
  compression: z
    .union([z.string(), z.array(z.string()).min(1)])
    .transform((value) => (Array.isArray(value) ? value : [value]))
    .optional(),
  alpha: z.enum(alphaKinds).optional(),
  colourSpace: z.string().trim().max(100).optional(),
  /** What a motion pass's vectors mean, where it is said rather than found: which way they lead, how they count, of which neighbour they tell. */
  vectors: z
    .object({
      sign: z.union([z.literal(1), z.literal(-1)]),
      down: z.boolean(),
      unit: z.enum(['pixel', 'picture', 'half picture']),
      neighbour: z.enum(['before', 'after']),
    })
    .optional(),
  /** The pass that this one is, without its noise: it stands for no light of its own. */
  denoisedFrom: z.string().min(1).max(100).optional(),
  /** Whether somebody has to watch it before the handoff; where not stated, the beauty is watched. */
  watch: z.boolean().optional(),
});

/**
 * The brief file of a shot. Only `shot`, `range` and each pass's `name` and `pattern` are
 * required; what is not stated is not checked.
 */
export const briefSchema = z
  .object({
    shot: z.string('A shot needs a name.').trim().min(1, 'A shot needs a name.').max(200),
    range,
    fps: z.preprocess((value) => (typeof value === 'number' ? String(value) : value), z.string().superRefine(readableBy(parseFrameRate))).optional(),
    resolution: resolution.optional(),
    pixelAspect: z.number().positive('A pixel aspect is larger than 0.').max(100).optional(),
    passes: z.array(briefPassSchema).min(1, 'A brief needs at least one pass.').max(1000),
    sampling: z
      .object({
        samples: z.number().int().positive().optional(),
        secondsPerFrame: z.number().positive().optional(),
        noise: z.number().positive().optional(),
        /** Test frames at several sample counts, from which the cost of the range is worked out. */
        tests: z
          .array(
            z.object({
              samples: z.number('A number of samples is needed.').int('Samples are whole.').positive('At least one sample.').max(10_000_000),
              noise: z.number().positive('Noise is larger than 0.').nullable(),
              seconds: z.number().positive('A frame takes longer than 0 seconds.').nullable(),
            }),
          )
          .max(100)
          .optional(),
        /** Soft gradients of a test frame: how far the softest go over so many pixels, and their noise (assay/gradients.ts). */
        gradients: z.object({ pixels: z.number().positive(), span: z.number().min(0), noise: z.number().min(0), share: z.number().min(0).max(1) }).optional(),
      })
      .optional(),
    /** Whether timecodes are told in drop-frame. */
    dropFrame: z.boolean().optional(),
    /** Extra frames at head and tail; they are part of the range, not of the cut. */
    handles: z.tuple([frameCount, frameCount], 'Handles are two numbers of frames, such as [8, 8].').optional(),
    /** How long the cut is to be: seconds, or a timecode. The range is held against it. */
    duration: z.string().trim().min(1).max(40).optional(),
    /** Whether the last frame is followed by the first. */
    loop: z.boolean().optional(),
    /** Frames that begin another picture: a change there is no jump. */
    cuts: range.optional(),
    /** Frames of a quick test, ahead of the range. */
    test: range.optional(),
    /** Percent of the resolution that is really rendered. */
    scale: z.number('A scale is a number of percent.').positive('A scale is larger than 0.').max(1000, 'A scale is at most 1000 percent.').optional(),
    /** Rendered region: left, top, width, height in pixels. */
    crop: z.tuple([z.number().int().min(0), z.number().int().min(0), pixels, pixels], 'A crop is left, top, width and height in pixels.').optional(),
    /** Whether the renderer writes all passes of a frame at once, so that a frame is rendered again with all of them. */
    allPassesAtOnce: z.boolean().optional(),
    /** Stands for {version} in the naming. */
    version: z.string().trim().max(40).optional(),
    /** Template that the passes' patterns were made from. */
    naming: z.string().max(1024).optional(),
    /** Name of the delivery specification that the shot follows. */
    follows: z.string().trim().max(100).optional(),
    /** A sound track, as long as its file says. */
    sound: z.object({ file: z.string().min(1).max(1024), samples: z.number().int().min(0), sampleRate: z.number().int().positive() }).optional(),
    /** How the tally looks: what is not told at all, and from where on things are odd. */
    checks: z
      .object({
        /** Codes of findings that nobody wants to hear of. */
        off: z.array(z.string().max(100)).max(200).optional(),
        /** How many times the usual change from frame to frame is a jump. */
        jumpTimes: z.number('A number is needed.').min(1.5, 'At least 1.5 times.').max(1000).optional(),
        /** How many times larger or smaller than its neighbours a file is odd. */
        sizeTimes: z.number('A number is needed.').min(1.2, 'At least 1.2 times.').max(1000).optional(),
        /** Notes of the renderer that may differ along a pass. */
        ignoreMetadata: z.array(z.enum(['camera', 'host', 'renderer', 'version', 'samples', 'rate', 'colour space', 'timecode'])).optional(),
      })
      .optional(),
    /** Severities that differ from the usual ones, by finding code. */
    severities: z.record(z.string(), z.enum(severities)).optional(),
  })
  .superRefine((brief, context) => {
    const seen = new Map<string, number>();
    brief.passes.forEach((pass, index) => {
      const before = seen.get(pass.name);
      if (before !== undefined) {
        context.addIssue({
          code: 'custom',
          path: ['passes', index, 'name'],
          message: `Two passes are called “${pass.name}”. Give each its own name.`,
        });
      }
      seen.set(pass.name, index);
    });
    brief.passes.forEach(({ denoisedFrom }, index) => {
      const original = brief.passes.find(({ name }) => name === denoisedFrom);
      if (denoisedFrom === undefined || (original && original !== brief.passes[index] && original.denoisedFrom === undefined)) return;
      const message = original ? `“${denoisedFrom}” is no pass as it was rendered.` : `There is no pass “${denoisedFrom}” that it could be denoised from.`;
      context.addIssue({ code: 'custom', path: ['passes', index, 'denoisedFrom'], message });
    });
    checkTogether(brief, context);
  });

/** What can only be told of several entries together. */
function checkTogether(
  brief: {
    range: string;
    fps?: string;
    dropFrame?: boolean;
    duration?: string;
    handles?: readonly [number, number];
    resolution?: readonly [number, number];
    crop?: readonly number[];
  },
  context: z.core.$RefinementCtx<unknown>,
): void {
  const tell = (field: string, message: string) => context.addIssue({ code: 'custom', path: [field], message });
  if (brief.crop && brief.resolution) {
    const [left, top, width, height] = brief.crop;
    if (left + width > brief.resolution[0] || top + height > brief.resolution[1])
      tell('crop', `The crop reaches beyond the ${brief.resolution[0]} x ${brief.resolution[1]} pixels.`);
  }
  if (brief.dropFrame && (brief.fps === undefined || (problemOf(() => parseFrameRate(brief.fps!)) === null && !allowsDropFrame(parseFrameRate(brief.fps))))) {
    tell('dropFrame', 'Drop-frame counting is for 29.97 and 59.94 only.');
  }
  if (brief.duration !== undefined) {
    if (brief.fps === undefined) tell('duration', 'A duration needs a frame rate.');
    // An entry that does not read well has been told at its own field already.
    else if (problemOf(() => parseFrameRate(brief.fps!)) === null) {
      const problem = problemOf(() => framesOfDuration(brief.duration!, parseFrameRate(brief.fps!)));
      if (problem !== null) tell('duration', problem);
    }
  }
  if (brief.handles && problemOf(() => parseFrameRange(brief.range)) === null && brief.handles[0] + brief.handles[1] >= parseFrameRange(brief.range).size) {
    tell('handles', 'The handles leave no frame of the cut.');
  }
}

export type Brief = z.output<typeof briefSchema>;
export type BriefPass = Brief['passes'][number];

/** Raised when a brief does not hold what a brief must; `fields` maps dotted paths to messages. */
export class BriefError extends MintError {
  readonly fields: Record<string, string>;

  constructor(fields: Record<string, string>, subject: string | null) {
    const [path, message] = Object.entries(fields)[0] ?? ['', 'It is empty.'];
    super('brief', `The brief cannot be used: ${path === '' ? '' : `${sayField(path)}: `}${message}`, { subject });
    this.fields = fields;
  }
}

const FIELD_WORDS: Readonly<Record<string, string>> = {
  fps: 'frame rate',
  pixelAspect: 'pixel aspect',
  dropFrame: 'drop-frame',
  colourSpace: 'colour space',
  secondsPerFrame: 'seconds per frame',
  pattern: 'name pattern',
  denoisedFrom: 'original',
};

/** An entry of a brief in words: `passes.0.pattern` is the name pattern of pass 1. */
function sayField(path: string): string {
  const words = path.split('.').map((part) => FIELD_WORDS[part] ?? part);
  if (words[0] === 'passes' && words.length >= 2) return `${words.slice(2).join(' ') || 'pass'} of pass ${Number(words[1]) + 1}`;
  return words.map((word) => (/^\d+$/.test(word) ? String(Number(word) + 1) : word)).join(' ');
}

/** The first message of each field of a Zod error, keyed by dotted path (`passes.0.pattern`). */
export function fieldMessages(error: z.ZodError): Record<string, string> {
  const fields: Record<string, string> = {};
  for (const issue of error.issues) fields[issue.path.join('.')] ??= issue.message;
  return fields;
}

/**
 * Parses a brief from any value, such as parsed JSON.
 *
 * @param subject the file it came from, for the message
 * @throws BriefError
 */
export function parseBrief(value: unknown, subject: string | null = null): Brief {
  const result = briefSchema.safeParse(value);
  if (result.success) return result.data;
  throw new BriefError(fieldMessages(result.error), subject);
}
