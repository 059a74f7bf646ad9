import * as z from 'zod';

/** Version of the interface that is described here and in docs/render-service.md. */
export const RENDER_SERVICE_VERSION = 2;

/** Frames in one task at most; a longer range is handed in as several tasks. */
const MOST_FRAMES = 100_000;
const name = z.string().min(1).max(100);
const frameNumber = z.number().int().min(-10_000_000).max(10_000_000);

/** `GET /`: what the service is, and how it likes its commands. */
export const serviceSchema = z.object({
  name,
  version: z.literal(RENDER_SERVICE_VERSION),
  /** A command to begin with; tokens stand in braces. */
  command: z.array(z.string().max(4096)).min(1).max(200),
  /** Tokens that the service fills itself; all others are filled from the brief. */
  tokens: z.array(z.string()).default(['frame', 'folder']),
});
export type ServiceDescription = z.output<typeof serviceSchema>;

/** What a machine is doing. `down` answers no more; `paused` takes no new frame. */
export const machineStates = ['idle', 'rendering', 'paused', 'down'] as const;

/** `GET /machines` gives a list of these. */
export const machineSchema = z.object({
  name,
  state: z.enum(machineStates),
  /** Speed against the others, where 1 is usual; measured by the service or set by hand. */
  speed: z.number().positive(),
  /** What it renders now. */
  doing: z.object({ task: z.string(), frame: frameNumber, since: z.iso.datetime(), share: z.number().min(0).max(1) }).nullable(),
  framesDone: z.number().int().min(0),
  /** Middle time of the frames that it has done, in seconds. */
  medianSeconds: z.number().min(0).nullable(),
});
export type Machine = z.output<typeof machineSchema>;

/** `PUT /tasks/{id}`: the id is chosen by whoever asks, so that asking twice asks for one. */
export const renderTaskRequestSchema = z.object({
  /** Absolute folder; patterns in the command are relative to it. */
  folder: z.string().min(1).max(4096),
  /** The machine that renders it; any that is free when null. */
  machine: name.nullable(),
  /** In the order in which they are to be rendered. */
  frames: z.array(frameNumber).min(1).max(MOST_FRAMES),
  command: z.array(z.string().max(100_000)).min(1).max(200),
  /** Higher goes first. */
  priority: z.number().int().min(-1000).max(1000).default(0),
});
export type RenderTaskRequest = z.output<typeof renderTaskRequestSchema>;

export const renderTaskStates = ['waiting', 'rendering', 'paused', 'stopped', 'done'] as const;
export const renderFrameStates = ['waiting', 'rendering', 'done', 'failed', 'stopped'] as const;

/** A frame of a task. `seconds` is the time that it took on the wall. */
export const renderTaskFrameSchema = z.object({
  frame: frameNumber,
  state: z.enum(renderFrameStates),
  machine: z.string().nullable(),
  seconds: z.number().min(0).nullable(),
});

/** A line of a log, with the time at which it was written. */
export const logLineSchema = z.object({
  number: z.number().int().positive(),
  at: z.iso.datetime(),
  machine: z.string(),
  text: z.string().max(10_000),
});
export type LogLine = z.output<typeof logLineSchema>;

/** `GET /tasks/{id}?after=N`: how far a task is, and the lines of its log after number N. */
export const renderTaskSchema = z.object({
  id: z.string(),
  state: z.enum(renderTaskStates),
  priority: z.number().int(),
  frames: z.array(renderTaskFrameSchema),
  lines: z.array(logLineSchema),
});
export type RenderTask = z.output<typeof renderTaskSchema>;

/** `POST /tasks/{id}/control`. Stopping `now` breaks frames off; `after-frame` lets them end. */
export const renderTaskControlSchema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('pause') }),
  z.object({ action: z.literal('resume') }),
  z.object({ action: z.literal('stop'), when: z.enum(['now', 'after-frame']) }),
  z.object({ action: z.literal('priority'), priority: z.number().int().min(-1000).max(1000) }),
]);
export type RenderTaskControl = z.output<typeof renderTaskControlSchema>;

/** `POST /machines/{name}/control`: whether a machine takes new frames, and turning it on again. */
export const machineControlSchema = z.object({ action: z.enum(['pause', 'resume', 'restart']) });
export type MachineControl = z.output<typeof machineControlSchema>;

/** What every answer that is no success holds. */
export const serviceProblemSchema = z.object({ message: z.string(), remedy: z.string().default('') });
