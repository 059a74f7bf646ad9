import * as z from 'zod';
import { measurePixels, pixelFactsSchema, type PixelFacts } from '../assay/index.ts';
import { describeError } from '../errors.ts';
import { findHoles, holeSchema, type Hole } from './holes.ts';
import { boundMetadata } from './metadata.ts';
import { recogniseFormat } from './recognise.ts';
import {
  FrameFileError,
  NotDecodedError,
  memorySource,
  SourceError,
  storedDepths,
  type ByteSource,
  type CodecTools,
  type DecodedFrame,
  type FrameHeader,
  type SoundnessCode,
} from '../formats/index.ts';

const windowSchema = z.tuple([z.number(), z.number(), z.number(), z.number()]).nullable();

const headerSchema = z.object({
  format: z.string(),
  width: z.number(),
  height: z.number(),
  pixelAspect: z.number().nullable(),
  channels: z.array(z.object({ name: z.string(), depth: z.enum(storedDepths) })),
  namedChannels: z.boolean(),
  compression: z.string(),
  dataWindow: windowSchema,
  displayWindow: windowSchema,
  blocks: z.tuple([z.number(), z.number()]).optional(),
  alphaKind: z.enum(['straight', 'premultiplied']).nullish(),
  assumed: z.array(z.string()).optional(),
  metadata: z.record(z.string(), z.union([z.string(), z.number()])),
});

const soundnessCodes = [
  'empty-file',
  'unwritten-file',
  'truncated',
  'corrupt',
  'wrong-format',
  'trailing-data',
  'unreadable',
  'still-writing',
] as const satisfies readonly SoundnessCode[];

/**
 * Counts up when a look at a file finds out more than before, or judges otherwise: what was kept
 * from an earlier edition is then looked at again.
 */
export const FACTS_EDITION = 4;

/** What is known of one file after a look at it; kept in the database between counts. */
export const fileFactsSchema = z.object({
  edition: z.number().default(1),
  level: z.enum(['headers', 'full']),
  /** The one thing that keeps the file from being sound, if there is one. */
  problem: z.object({ code: z.enum(soundnessCodes), message: z.string() }).nullable(),
  /** Null when not even the header could be read. */
  header: headerSchema.nullable(),
  trailingBytes: z.number(),
  /** Why the pixels were not looked into, although nothing is known to be wrong. */
  notExamined: z.string().nullable(),
  /** What a full look says of the pixels; null where they were not decoded. */
  pixels: pixelFactsSchema.nullable().default(null),
  /** Where pixels that are not packed were never filled, as a full look finds it. */
  holes: z.array(holeSchema).default([]),
});

export type FileFacts = z.output<typeof fileFactsSchema>;

/** Facts, and the pixels where a full look decoded them. */
export interface Inspection {
  readonly facts: FileFacts;
  /** An error of ours that kept the file from being looked into, for the log; absent where there was none. */
  readonly unexpected?: unknown;
  readonly frame: DecodedFrame | null;
}

/**
 * Looks at one file. Nothing that the file holds makes this throw: what is wrong comes back as
 * `facts.problem`. Only what a format itself recognises as damage is one; an error of our own is none of the file,
 * which then is not examined.
 *
 * @throws SourceError when the source cannot be read, whatever it holds
 * @param name the file's name, for its extension
 * @param level `headers` proves it whole without its pixels, `full` reads every byte and pixel
 */
export function inspectFrameFile(source: ByteSource, name: string, level: 'headers' | 'full', tools: CodecTools): Inspection {
  const found: Found = { header: null, trailingBytes: 0, frame: null, holes: [] };
  let problem: FileFacts['problem'] = null;
  let notExamined: string | null = null;
  let unexpected: unknown;
  try {
    notExamined = look(source, name, level, tools, found);
  } catch (thrown) {
    if (thrown instanceof SourceError) throw thrown;
    if (thrown instanceof FrameFileError) problem = { code: thrown.code, message: thrown.message };
    else if (thrown instanceof NotDecodedError) notExamined = thrown.message;
    else [notExamined, unexpected] = [ownFault(thrown), thrown];
  }
  let pixels: PixelFacts | null = null;
  try {
    if (found.frame) pixels = measurePixels(found.frame, tools);
  } catch (thrown) {
    [notExamined, unexpected] = [ownFault(thrown), thrown];
  }
  const header = found.header && ({ ...found.header, metadata: boundMetadata(found.header.metadata) } as FileFacts['header']);
  const { trailingBytes, holes, frame } = found;
  return { facts: { edition: FACTS_EDITION, level, problem, header, trailingBytes, notExamined, pixels, holes }, frame, unexpected };
}

/** What a look has come to so far; it may end at any place. */
interface Found {
  header: FrameHeader | null;
  trailingBytes: number;
  frame: DecodedFrame | null;
  holes: Hole[];
}

function look(source: ByteSource, name: string, level: 'headers' | 'full', tools: CodecTools, found: Found): string | null {
  const format = recogniseFormat(source, name);
  if (level === 'headers') {
    const file = format.open(source);
    found.header = file.header;
    const report = file.check();
    found.trailingBytes = report.trailingBytes;
    return report.notExamined ?? null;
  }
  const bytes = source.read(0, source.size);
  const file = format.open(memorySource(bytes));
  found.header = file.header;
  const { frame, report } = file.decode(tools);
  found.frame = frame;
  if (report.plain) found.holes = findHoles(bytes, report.plain);
  found.trailingBytes = report.trailingBytes;
  return report.notExamined ?? null;
}

/** What is said of a file that an error of our own kept from being looked into. */
function ownFault(thrown: unknown): string {
  return `The file could not be looked into: ${describeError(thrown)}. The fault is in this application; the file may be sound.`;
}
