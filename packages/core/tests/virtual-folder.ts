import { createHash } from 'node:crypto';
import {
  assignFiles,
  encodeExr,
  encodePng,
  floatToHalf,
  impliedBrief,
  inspectFrameFile,
  memorySource,
  parseBrief,
  setAsideComing,
  tally,
  withImpliedKinds,
  workOutOrder,
  type Coming,
  type FileFacts,
  type ListedFile,
  type Tally,
  type TallyLevel,
} from '../src/index.ts';
import { tools } from './tools.ts';

/** The clock of these tests. */
export const NOW = 1_800_000_000_000;

/** A folder in memory: contents by path. */
export type VirtualFolder = Record<string, Uint8Array>;

/** Counts a folder in memory, with a brief or with what the folder implies. */
export function count(
  folder: VirtualFolder,
  brief: unknown,
  options: { level?: TallyLevel; modified?: number | ((path: string) => number); coming?: Coming } = {},
): Tally {
  const level = options.level ?? 'full';
  const listing = Object.entries(folder).map(([path, bytes]): ListedFile => ({
    path,
    size: bytes.length,
    modified: typeof options.modified === 'function' ? options.modified(path) : (options.modified ?? NOW - 3_600_000),
    kind: 'file',
  }));
  const facts = new Map<string, FileFacts>();
  if (level !== 'names') for (const { path } of listing) facts.set(path, inspectFrameFile(memorySource(folder[path]), path, level, tools).facts);
  const factsOf = (file: ListedFile) => facts.get(file.path) ?? null;
  const parsed = brief === null ? impliedBrief(listing, 'shot')! : parseBrief(brief);
  const found = assignFiles(workOutOrder(parsed), listing, NOW);
  const assignment = options.coming ? setAsideComing(workOutOrder(parsed), found, options.coming, NOW) : found;
  const order = workOutOrder(brief === null ? withImpliedKinds(parsed, listing, factsOf) : parsed);
  return tally({
    order,
    listing,
    assignment,
    level,
    isImplied: brief === null,
    factsOf,
    contentOf: ({ path }) => (level === 'full' ? contentOf(folder[path]!) : null),
    coming: options.coming,
  });
}

/** A checksum of a file's content, as a count keeps it. */
export const contentOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

/** A findings list in short: `code pass frames` and the files' count. */
export function short(result: Tally): string[] {
  return result.findings.map((finding) => `${finding.code} ${finding.pass} ${finding.frames}`.trim()).sort();
}

export function pngFrame(options: { width?: number; height?: number; samples?: 1 | 2 | 3 | 4; wide?: boolean; seed?: number } = {}): Uint8Array {
  const { width = 8, height = 6, samples = 3, wide = false, seed = 1 } = options;
  const count = width * height * samples;
  const data = wide ? new Uint16Array(count) : new Uint8Array(count);
  for (let i = 0; i < count; i++) data[i] = Math.imul(seed + i, 2654435761) >>> 16;
  return encodePng({ width, height, samplesPerPixel: samples, data }, tools);
}

export function exrFrame(
  options: {
    width?: number;
    height?: number;
    channels?: string[];
    type?: 'half' | 'float';
    compression?: 'none' | 'rle' | 'zips' | 'zip';
    pixelAspect?: number;
  } = {},
): Uint8Array {
  const { width = 8, height = 6, channels = ['R', 'G', 'B', 'A'], type = 'half', compression = 'zip', pixelAspect = 1 } = options;
  const values = Array.from({ length: width * height }, (_, i) => Math.sin(i));
  const data = type === 'half' ? Uint16Array.from(values, floatToHalf) : Float32Array.from(values);
  const window = [0, 0, width - 1, height - 1] as const;
  return encodeExr(
    { dataWindow: window, displayWindow: window, pixelAspect, compression, channels: channels.map((name) => ({ name, type, data })), metadata: {} },
    tools,
  );
}

/** `count` frames named by `name`, all with the same content. */
export function sequence(name: (frame: string) => string, first: number, last: number, bytes: Uint8Array): VirtualFolder {
  const folder: VirtualFolder = {};
  for (let frame = first; frame <= last; frame++) folder[name(String(frame).padStart(4, '0'))] = bytes;
  return folder;
}

/** An unpacked TGA of 24 bits: its header (kind 2, size, depth, top line first), then blue, green and red of every pixel. */
export function tgaFrame(width: number, height: number, rgb: Uint8Array): Uint8Array {
  const header = [0, 0, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, width & 255, width >> 8, height & 255, height >> 8, 24, 32];
  return Uint8Array.from([...header, ...rgb.map((_, i) => rgb[i - (i % 3) + 2 - (i % 3)])]);
}
