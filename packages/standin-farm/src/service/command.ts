import { parseArgs } from 'node:util';
import { MintError, parseFrameRange, parseNamePattern, framePath, type FrameSet, type NamePattern } from '@mint-tally/core';
import * as z from 'zod';
import { demoShots } from '../demo/shots.ts';
import type { PassFile } from '../nodes/frame-files.ts';
import { PASS_COMPONENTS, passNames, type PassName } from '../render/frame.ts';
import type { View } from '../scene/orrery.ts';
import { parseFaults, type FaultPlan } from './faults.ts';

/** The command that the farm proposes; `frame` and `folder` it fills itself, the rest whoever asks for the task. */
export const USUAL_COMMAND = [
  'orrery',
  '--shot={shot}',
  '--range={first}-{last}',
  '--size={width}x{height}',
  '--samples={samples}',
  '--seconds={seconds}',
  '--seed={seed}',
  '--version={version}',
  '--passes={passes}',
  '--frame={frame}',
];

/** Raised when a command cannot be carried out. */
export class CommandError extends MintError {
  constructor(message: string) {
    super('command', `The command cannot be carried out: ${message}`, { remedy: `A usual one is: ${USUAL_COMMAND.join(' ')}` });
  }
}

/** The passes that a task asks for, as `{passes}` holds them: the brief's own words. */
const passesSchema = z
  .array(
    z.object({
      name: z.string(),
      role: z.string().optional(),
      pattern: z.string(),
      channels: z.array(z.string()).optional(),
      depth: z.string().optional(),
      compression: z.array(z.string()).optional(),
    }),
  )
  .min(1)
  .max(100);

/** One pass to be written, with its file for every frame. */
export interface PassOrder {
  readonly pattern: NamePattern;
  readonly file: Omit<PassFile, 'path'>;
}

/** A command as it was understood. */
export interface RenderCommand {
  readonly shot: string;
  readonly view: View;
  /** First and last frame of the shot, over which the orrery makes its way. */
  readonly first: number;
  readonly last: number;
  readonly width: number;
  readonly height: number;
  readonly samples: number;
  /** Seconds after which a frame takes no further sample, on a machine of speed 1; null for never. */
  readonly seconds: number | null;
  readonly seed: number;
  readonly version: string;
  readonly passes: readonly PassOrder[];
  readonly faults: FaultPlan;
}

const whole = (least: number, most: number) => z.coerce.number().int().min(least).max(most);
const optionsSchema = z.object({
  shot: z.string().min(1),
  range: z.string().min(1),
  size: z
    .string()
    .regex(/^[0-9]{1,5}x[0-9]{1,5}$/, 'a size is written 640x360')
    .transform((text) => text.split('x').map(Number))
    .refine(([width, height]) => width > 0 && height > 0 && width * height <= 40_000_000, 'a size of up to 40 million pixels'),
  samples: whole(1, 100_000),
  // Empty for frames that end by their samples.
  seconds: z.literal('').or(z.coerce.number().positive()).optional(),
  // Empty for the shot's own.
  seed: z
    .literal('')
    .or(whole(0, 2 ** 31 - 1))
    .optional(),
  version: z.string().default(''),
  passes: z.string(),
  frame: z.coerce.number().int().optional(),
  faults: z.string().default(''),
});

/**
 * Reads the stand-in farm's command: `orrery --shot … --range … --size … --samples … --passes …`,
 * and `--seconds`, `--seed`, `--version`, `--faults` where they are wanted.
 *
 * @throws CommandError
 */
export function parseCommand(command: readonly string[]): RenderCommand {
  if (command[0] !== 'orrery') throw new CommandError(`the stand-in farm knows orrery and not ${command[0]}.`);
  const names = Object.keys(optionsSchema.shape);
  const values = told(
    () => parseArgs({ args: command.slice(1), options: Object.fromEntries(names.map((name) => [name, { type: 'string' as const }])) }).values,
  );
  const options = optionsSchema.safeParse(values);
  if (!options.success) {
    const issue = options.error.issues[0]!;
    throw new CommandError(`--${issue.path.join('.')}: ${issue.message}.`);
  }
  const { shot, size, samples, seconds, seed, version } = options.data;
  const known = demoShots.find((one) => one.name === shot);
  const passes = told(() => passesSchema.parse(JSON.parse(options.data.passes)));
  return {
    shot,
    view: (known ?? demoShots[0]!).view,
    ...told(() => endsOf(parseFrameRange(options.data.range))),
    width: size[0],
    height: size[1],
    samples,
    seconds: seconds === undefined || seconds === '' ? null : seconds,
    seed: seed === undefined || seed === '' ? (known?.seed ?? 1) : seed,
    version,
    passes: passes.map(readPass),
    faults: told(() => parseFaults(options.data.faults)),
  };
}

function endsOf({ first, last }: FrameSet): { first: number; last: number } {
  if (first === undefined || last === undefined) throw new Error('--range holds no frame.');
  return { first, last };
}

function told<Result>(read: () => Result): Result {
  try {
    return read();
  } catch (thrown) {
    throw new CommandError(thrown instanceof z.ZodError ? thrown.issues[0]!.message : (thrown as Error).message);
  }
}

const COMPRESSIONS = ['none', 'rle', 'zips', 'zip'] as const;

function readPass({ name, role, pattern: text, channels, depth, compression }: z.output<typeof passesSchema>[number]): PassOrder {
  const pattern = told(() => parseNamePattern(text));
  const format = /\.(exr|png)$/i.exec(text)?.[1]!.toLowerCase() as 'exr' | 'png' | undefined;
  if (!format) throw new CommandError(`${text} is neither exr nor png, and the farm writes no other.`);
  const pass = whichPass(name, role);
  const usual = PASS_COMPONENTS[pass].length;
  return {
    pattern,
    file: {
      pass,
      format,
      compression: COMPRESSIONS.find((one) => compression?.includes(one)) ?? 'zip',
      type: depth === 'float' || depth === 'half' ? depth : pass === 'depth' || pass === 'motion' ? 'float' : 'half',
      // More channels than the pass has components cannot be filled.
      ...(channels && channels.length <= usual ? { channels } : {}),
    },
  };
}

/** The farm's pass that a brief's pass means: by its name where the farm has one, else by its role. */
function whichPass(name: string, role: string | undefined): PassName {
  const byName = passNames.find((pass) => name.toLowerCase() === pass);
  if (byName) return byName;
  const byRole: Record<string, PassName> = { light: 'diffuse', matte: 'glass', half: /2$|b$/i.test(name) ? 'half2' : 'half1' };
  const found = passNames.find((pass) => pass === role) ?? byRole[role ?? ''] ?? passNames.find((pass) => name.toLowerCase().includes(pass));
  if (!found) throw new CommandError(`the farm has no pass for ${name}; it has ${passNames.join(', ')}.`);
  return found;
}

/** The files of one frame. */
export function filesOf(command: RenderCommand, frame: number): PassFile[] {
  return command.passes.map(({ pattern, file }) => ({ ...file, path: framePath(pattern, frame) }));
}
