import * as z from 'zod';
import { severities } from '../brief/index.ts';
import { findingCodes, frameStates, type FindingCode, type FrameState } from '../tally/index.ts';
import { gateNames } from './gates.ts';

/** What a report's file says that it is. */
export const REPORT_KIND = 'mint-tally-report';

const states = z.object(Object.fromEntries(Object.keys(frameStates).map((state) => [state, z.number().int().min(0)])) as Record<FrameState, z.ZodNumber>);

/** All that is known of a shot before it is handed over, on a few pages: what `report.json` holds, and the pages show. */
export const reportSchema = z.object({
  kind: z.literal(REPORT_KIND),
  madeAt: z.iso.datetime(),
  project: z.string(),
  shot: z.string(),
  /** As the brief says; empty where it does not. */
  version: z.string(),
  note: z.string(),
  briefVersion: z.number().int(),
  range: z.string(),
  fps: z.string(),
  resolution: z.tuple([z.number(), z.number()]).nullable(),
  /** Whether every gate lets the shot through; else why not. */
  ready: z.boolean(),
  refusal: z.string(),
  counted: z.object({ at: z.string(), files: z.number(), bytes: z.number() }).nullable(),
  /** Every ordered frame of a pass is in one state. Frames in range notation. */
  passes: z.array(z.object({ name: z.string(), role: z.string(), expected: z.number(), states, missing: z.string(), broken: z.string() })),
  gates: z.array(
    z.object({ name: z.enum(gateNames), asks: z.string(), state: z.enum(['closed', 'warned', 'waived', 'open', 'unmeasured']), says: z.string() }),
  ),
  findings: z.array(
    z.object({
      code: z.enum(Object.keys(findingCodes) as [FindingCode, ...FindingCode[]]),
      title: z.string(),
      severity: z.enum(severities),
      pass: z.string().nullable(),
      frames: z.string(),
      message: z.string(),
      waived: z.object({ person: z.string(), reason: z.string() }).nullable(),
      /** A frame that shows it; null where there is no picture of it. */
      picture: z.object({ pass: z.string(), frame: z.number().int() }).nullable(),
    }),
  ),
  waivers: z.array(z.object({ what: z.string(), person: z.string(), reason: z.string() })),
  /** Noise along the shot, a pass at a time; null where these frames were not measured. */
  noise: z
    .object({
      target: z.number().nullable(),
      passes: z.array(z.object({ pass: z.string(), frames: z.array(z.number().int()), values: z.array(z.number().nullable()), usual: z.number().nullable() })),
    })
    .nullable(),
  eyes: z.array(z.object({ pass: z.string(), watched: z.number().int(), left: z.string() })),
  watchers: z.array(z.string()),
  stamp: z.object({ kind: z.enum(['signed', 'sent-back']), person: z.string(), note: z.string(), at: z.string(), broken: z.string() }).nullable(),
  packages: z.array(
    z.object({
      folder: z.string(),
      at: z.string(),
      actor: z.string(),
      files: z.number(),
      bytes: z.number(),
      manifestSha256: z.string(),
      receipts: z.array(z.string()),
    }),
  ),
});
export type Report = z.output<typeof reportSchema>;
