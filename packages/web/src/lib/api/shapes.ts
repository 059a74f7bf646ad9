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

const said = z.array(z.object({ pass: z.string(), frames: z.string(), message: z.string() }));

/** What a mend would do. */
export const mendPreviewSchema = z.object({
  preview: z
    .object({
      says: z.string(),
      seen: z.string().describe('Stands for just this: send it with the job that applies it'),
      steps: z.array(z.object({ action: z.string(), from: z.string().nullable(), to: z.string(), reason: z.string() })).describe('The first of them'),
      stepCount: z.number(),
      conflicts: z.array(z.object({ files: z.array(z.string()), message: z.string() })),
      conflictCount: z.number(),
      refused: said,
      words: said,
    })
    .nullable(),
  problem: z.string().describe('Why there is none; empty where there is one'),
});

/** What was mended, the newest first. */
export const mendsSchema = z.object({
  mends: z.array(
    z.object({
      says: z.string(),
      files: z.number(),
      at: z.string(),
      actor: z.string(),
      undoneAt: z.string().nullable(),
      undo: z.string().nullable().describe('What the job that takes it back sends as `seen`; null where it cannot be'),
    }),
  ),
});

export const denoisingSchema = z.object({
  runs: z.array(
    z.object({
      id: number,
      purpose: z.enum(['test', 'range']),
      pass: z.string(),
      range: z.string(),
      outcome: z.string().nullable().describe('Null while something is left'),
      parts: z.number(),
      done: z.number(),
    }),
  ),
});

export const mergeSchema = z.object({
  merge: z
    .object({
      id: number,
      state: z.enum(['previewing', 'previewed', 'running', 'done', 'undoing', 'undone']),
      conflictCount: z.number(),
      renamed: z.number(),
      replaced: z.number(),
      gaps: z.array(z.object({ pass: z.string(), frames: z.string() })),
      strayCount: z.number(),
      total: z.number(),
      done: z.number(),
    })
    .nullable(),
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
