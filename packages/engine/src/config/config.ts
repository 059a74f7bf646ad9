import { existsSync, readFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fieldMessages, MintError } from '@mint-tally/core';
import * as z from 'zod';
import { projectFolder } from './project.ts';

const rootSchema = z.object({
  /** Shown to people, and part of where a shot's folder is kept. */
  name: z.string().regex(/^[a-z0-9][a-z0-9_-]{0,31}$/, 'A root is named with small letters, digits, - and _.'),
  /** Absolute, or relative to the folder of Mint Tally. */
  path: z.string().min(1),
  writable: z.boolean().default(false),
});

const serviceSchema = z.object({
  /** Shown to people. */
  name: z.string().trim().min(1).max(100),
  url: z.url({ protocol: /^https?$/ }),
  /** Sent with every question. */
  token: z.string().min(1).max(1000),
});

const localCommandSchema = z.object({
  name: z.string().trim().min(1).max(100).default('this computer'),
  /** Absolute path of the program; it is run without a shell. */
  program: z.string().refine((text) => path.isAbsolute(text), 'The program needs its absolute path.'),
  /** With the tokens {first}, {last}, {frame}, {folder} and those of the brief. */
  arguments: z.array(z.string()),
});

const configSchema = z.object({
  port: z.number().int().min(1).max(65535).default(4680),
  /** Folders that may be read, and written where they say so. */
  roots: z.array(rootSchema).default([]),
  /** Worker threads of the engine; by default one a core. */
  workers: z.number().int().min(1).max(256).optional(),
  /** Megabytes that these may use together for the files that they look into; by default an eighth of the computer's memory. */
  memory: z.number().int().min(64).max(1_000_000).optional(),
  demo: z.boolean().default(true),
  /** Whether the stand-in farm is started beside the rest. */
  farm: z.boolean().default(true),
  /** Days for which is kept what nobody may need any more. */
  keep: z
    .object({
      /** Jobs that ended, logs of batches, previews of merges. */
      records: z.number().int().min(1).max(36_500).default(30),
      /** Small pictures of frames that no shot has any more. */
      pictures: z.number().int().min(1).max(36_500).default(14),
      /** Files that mends and merges set aside; as long they can be taken back. */
      setAside: z.number().int().min(1).max(36_500).default(90),
    })
    .prefault({}),
  /** Render services that speak the interface of docs/render-service.md. */
  renderServices: z.array(serviceSchema).default([]),
  /** A renderer on this computer, driven chunk by chunk. Off unless it is named. */
  localCommand: localCommandSchema.optional(),
});

export type RenderServiceAddress = z.output<typeof serviceSchema>;
export type LocalCommand = z.output<typeof localCommandSchema>;

/** Under this name the stand-in farm is found. */
export const STANDIN_FARM = 'stand-in farm';

/** A folder that the application may look into. */
export interface Root {
  readonly name: string;
  readonly path: string;
  readonly writable: boolean;
}

export interface Config {
  readonly port: number;
  readonly roots: readonly Root[];
  readonly workers: number;
  /** Bytes that the workers may use together for what they look into. */
  readonly memory: number;
  readonly demo: boolean;
  readonly farm: boolean;
  readonly renderServices: readonly RenderServiceAddress[];
  readonly localCommand: LocalCommand | null;
  /** Days for which is kept what nobody may need any more. */
  readonly keep: Readonly<z.output<typeof configSchema>['keep']>;
  /** Everything that Mint Tally itself keeps on disk: database, proxies, demo frames, packages. */
  readonly dataFolder: string;
  /** A database server that is run by somebody else; null to run our own. */
  readonly databaseUrl: string | null;
}

/** Raised when the configuration cannot be used. */
export class ConfigError extends MintError {
  constructor(message: string, file: string, remedy: string) {
    super('config', message, { subject: file, remedy });
  }
}

/**
 * Reads `mint-tally.config.json` (or the file that `MINT_TALLY_CONFIG` names) and what the
 * environment says over it. Without a file there are two roots: the demo's frames, and a writable
 * folder for packages.
 *
 * @throws ConfigError
 */
export function loadConfig(environment: NodeJS.ProcessEnv = process.env): Config {
  const home = projectFolder();
  const file = environment.MINT_TALLY_CONFIG ?? path.join(home, 'mint-tally.config.json');
  const parsed = configSchema.safeParse(readConfigFile(file, environment.MINT_TALLY_CONFIG !== undefined));
  if (!parsed.success) {
    const [field, message] = Object.entries(fieldMessages(parsed.error))[0]!;
    throw new ConfigError(`${file}: ${field === '' ? '' : `${field}: `}${message}`, file, 'Correct it and start again.');
  }
  const dataFolder = path.resolve(home, environment.MINT_TALLY_DATA ?? '.mint');
  const roots: Root[] = parsed.data.roots.map((root) => ({ ...root, path: path.resolve(home, root.path) }));
  const builtIn: Root[] = [
    ...(parsed.data.demo ? [{ name: 'demo', path: path.join(dataFolder, 'demo'), writable: true }] : []),
    { name: 'packages', path: path.join(dataFolder, 'packages'), writable: true },
  ];
  for (const root of builtIn) if (!roots.some((other) => other.name === root.name)) roots.push(root);
  const twice = roots.find((root, i) => roots.findIndex((other) => other.name === root.name) !== i);
  if (twice) throw new ConfigError(`${file}: two roots are called ${twice.name}.`, file, 'Give each root its own name.');
  return {
    port: portOf(environment.MINT_TALLY_PORT, parsed.data.port),
    roots,
    workers: parsed.data.workers ?? os.availableParallelism(),
    memory: parsed.data.memory === undefined ? usualMemory() : parsed.data.memory * 1e6,
    demo: parsed.data.demo,
    farm: parsed.data.farm,
    renderServices: [...farmOf(environment), ...parsed.data.renderServices],
    localCommand: parsed.data.localCommand ?? null,
    keep: parsed.data.keep,
    dataFolder,
    databaseUrl: environment.MINT_TALLY_DATABASE_URL || null,
  };
}

/** An eighth of what the computer has, but enough for any usual frame, and no more than any should need. In bytes. */
export function usualMemory(): number {
  return Math.min(8e9, Math.max(512e6, os.totalmem() / 8));
}

/** The stand-in farm where it was started beside this process. */
function farmOf({ MINT_TALLY_FARM_URL: url, MINT_TALLY_FARM_TOKEN: token }: NodeJS.ProcessEnv): RenderServiceAddress[] {
  return url && token ? [{ name: STANDIN_FARM, url, token }] : [];
}

function readConfigFile(file: string, named: boolean): unknown {
  if (!existsSync(file)) {
    if (named) throw new ConfigError(`There is no configuration file ${file}.`, file, 'Correct MINT_TALLY_CONFIG.');
    return {};
  }
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch (thrown) {
    throw new ConfigError(`${file} is not JSON: ${(thrown as Error).message}.`, file, 'Correct it and start again.');
  }
}

function portOf(text: string | undefined, fallback: number): number {
  if (text === undefined || text === '') return fallback;
  const port = Number(text);
  if (Number.isInteger(port) && port >= 1 && port <= 65535) return port;
  throw new ConfigError(`MINT_TALLY_PORT is ${text}, which is no port.`, 'MINT_TALLY_PORT', 'Use a number from 1 to 65535.');
}
