import {
  findingCodes,
  frameStates,
  gateNames,
  jobErrorSchema,
  jobProgressSchema,
  jobStates,
  jobKinds,
  severities,
  type FindingCode,
  type FrameState,
} from '@mint-tally/core';
import * as z from 'zod';

const states = z.object(Object.fromEntries(Object.keys(frameStates).map((state) => [state, z.number().int()])) as Record<FrameState, z.ZodNumber>);
const code = z.enum(Object.keys(findingCodes) as [FindingCode, ...FindingCode[]]);
const number = z.number().int().positive();

export const shotInListSchema = z.object({ id: number, name: z.string(), note: z.string(), root: z.string(), folder: z.string() });

/** A shot as it stands: counts, gates, findings. */
export const shotSchema = shotInListSchema.extend({
  briefVersion: z.number().int(),
  ready: z.boolean().describe('Whether every gate lets the shot through'),
  refusal: z.string().describe('Why not; empty when it does'),
  handedOver: z.boolean().describe('Whether the newest package holds what was counted last'),
  counted: z
    .object({
      at: z.string(),
      files: z.number(),
      bytes: z.number(),
      stale: z.boolean().describe('Whether it was held against an older brief, and says nothing of this one'),
      content: z.string().describe('Stands for the content of all files: what a stamp is given for'),
    })
    .nullable(),
  passes: z.array(
    z.object({
      name: z.string(),
      role: z.string(),
      expected: z.number(),
      states,
      missing: z.string().describe('Frames in range notation'),
      broken: z.string(),
    }),
  ),
  gates: z.array(
    z.object({
      name: z.enum(gateNames),
      state: z.enum(['closed', 'warned', 'waived', 'open', 'unmeasured']),
      blockers: z.number(),
      warnings: z.number(),
      waived: z.number(),
      unwatched: z.number(),
    }),
  ),
  findings: z.array(
    z.object({
      code,
      severity: z.enum(severities),
      pass: z.string().nullable(),
      frames: z.string(),
      files: z.array(z.string()),
      message: z.string(),
      waiver: z.object({ id: number, person: z.string(), reason: z.string() }).nullable(),
      subject: z.unknown().describe('What a waiver of it names: send it as one of `subjects`'),
    }),
  ),
});

export const jobSchema = z.object({
  id: number,
  shot: number,
  kind: z.enum(jobKinds),
  state: z.enum(jobStates),
  progress: jobProgressSchema.nullable(),
  error: jobErrorSchema.nullable(),
  result: z.unknown().describe('What it came to, once it is done'),
});

/** What was made of a shot. */
export const madeSchema = z.object({
  packages: z.array(
    z.object({
      id: number,
      root: z.string(),
      folder: z.string(),
      files: z.number(),
      bytes: z.number(),
      volumes: z.number(),
      manifestSha256: z.string(),
      at: z.string(),
      actor: z.string(),
      receipts: z.array(z.object({ valid: z.boolean(), ready: z.boolean(), person: z.string(), at: z.string(), problems: z.number() })),
    }),
  ),
  movies: z.array(
    z.object({
      id: number,
      root: z.string(),
      file: z.string(),
      pass: z.string(),
      frames: z.number(),
      fps: z.string(),
      seconds: z.number(),
      slates: z.string(),
      bytes: z.number(),
      isThere: z.boolean(),
    }),
  ),
  sheets: z.array(
    z.object({ id: number, root: z.string(), file: z.string(), pictures: z.number(), pages: z.number(), bytes: z.number(), isThere: z.boolean() }),
  ),
  stamp: z.object({ id: number, kind: z.enum(['signed', 'sent-back']), person: z.string(), note: z.string(), at: z.string(), broken: z.string() }).nullable(),
});
