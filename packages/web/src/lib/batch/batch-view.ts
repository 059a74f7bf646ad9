import * as z from 'zod';

const machineViewSchema = z.object({
  name: z.string(),
  /** What the service says of it; null when nobody says anything. */
  state: z.enum(['idle', 'rendering', 'paused', 'down']).nullable(),
  /** Frame in hand. */
  frame: z.number().nullable(),
  /** Share of the frame in hand that is done, 0..1. */
  share: z.number(),
  sinceSeconds: z.number(),
  done: z.number(),
  sound: z.number(),
  /** Nothing stops them, and something is to be looked at. */
  odd: z.number(),
  bad: z.number(),
  total: z.number(),
  medianSeconds: z.number().nullable(),
  out: z.boolean(),
});
export type MachineView = z.output<typeof machineViewSchema>;

/** A batch as the page shows it: what goes on, or what went on last. */
export const batchViewSchema = z.object({
  id: z.number(),
  service: z.string().nullable(),
  wanted: z.enum(['run', 'pause', 'stop-now', 'stop-after-frame']),
  outcome: z.enum(['done', 'stopped', 'failed']).nullable(),
  error: z.string(),
  createdAt: z.string(),
  endedAt: z.string().nullable(),
  total: z.number(),
  done: z.number(),
  sound: z.number(),
  /** Nothing stops them, and something is to be looked at. */
  odd: z.number(),
  bad: z.number(),
  machines: z.array(machineViewSchema),
  /** Frames of a batch that was stopped or failed which are still not sound, in range notation, with their number; empty otherwise. */
  rest: z.string(),
  restCount: z.number(),
  /** Seconds left: likely, and the bounds of nine in ten. */
  left: z.object({ seconds: z.number(), low: z.number(), high: z.number() }).nullable(),
  badFrames: z.array(z.object({ frame: z.number(), machine: z.string(), says: z.string() })),
  oddFrames: z.array(z.object({ frame: z.number(), machine: z.string(), says: z.string() })),
  alarms: z.array(z.object({ id: z.number(), kind: z.string(), machine: z.string(), message: z.string(), at: z.string(), settled: z.boolean() })),
  lines: z.array(z.object({ machine: z.string(), at: z.string(), text: z.string() })),
  /** Why the service's machines could not be asked; empty when they were. */
  unheard: z.string(),
});
export type BatchView = z.output<typeof batchViewSchema>;

/** A render service with its machines, for choosing. */
export interface ServiceChoice {
  readonly name: string;
  readonly machines: readonly { readonly name: string; readonly speed: number; readonly state: string; readonly medianSeconds: number | null }[];
  /** The command with its tokens, an argument a line. */
  readonly command: string;
  /** Whether the command is the configuration's, and no other is taken. */
  readonly fixed: boolean;
  /** Why it cannot be used now; empty when it can. */
  readonly problem: string;
}

/** What the page asks for when a batch is to begin. */
export const startRequestSchema = z.object({
  service: z.string().max(100).nullable(),
  command: z.array(z.string().max(100_000)).max(200),
  shares: z
    .array(z.object({ machine: z.string().max(100), frames: z.array(z.number().int()).max(1_000_000) }))
    .min(1)
    .max(1000),
  /** Whether frames that are sound may be written over; the page has said which. */
  overwrite: z.boolean(),
  /** Names of the passes to render. */
  passes: z.array(z.string()).min(1),
  settings: z.object({ priority: z.number().int(), badInRow: z.number().int(), stopBadMachine: z.boolean(), chunk: z.number().int() }),
});
export type StartRequest = z.output<typeof startRequestSchema>;

export const controlRequestSchema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('wish'), wanted: z.enum(['run', 'pause', 'stop-now', 'stop-after-frame']) }),
  z.object({ action: z.literal('take-out'), machine: z.string() }),
  z.object({ action: z.literal('restart'), machine: z.string() }),
  z.object({ action: z.literal('go-on') }),
]);
export type ControlRequest = z.output<typeof controlRequestSchema>;

/** What is left to render, in range notation. */
export interface RemainderView {
  readonly ordered: string;
  readonly render: string;
  /** What needs a decision, not a render. */
  readonly decide: string;
  /** What passes lack that are denoised from others. */
  readonly denoise: readonly { readonly name: string; readonly frames: string }[];
  /** Every pass that is rendered, with its frames that are there and need no render. */
  readonly passes: readonly { readonly name: string; readonly there: string }[];
  /** Passes that lack the same frames, the group with most frames first. */
  readonly groups: readonly { readonly passes: readonly string[]; readonly frames: string }[];
}
