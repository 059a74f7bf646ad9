import zlib from 'node:zlib';
import { encodeExr, encodePng, encodeSRgb, floatToHalf, type EncoderTools, type ExrChannelData, type PixelWindow } from '@mint-tally/core';
import { PASS_COMPONENTS, type PassName, type RenderedFrame } from '../render/frame.ts';

const tools: EncoderTools = { deflate: (data) => zlib.deflateSync(data), crc32: (data) => zlib.crc32(data) };

/** How one pass of a frame is written. */
export interface PassFile {
  readonly pass: PassName;
  /** Relative to the folder that the farm renders into. */
  readonly path: string;
  readonly format: 'exr' | 'png';
  readonly compression: 'none' | 'rle' | 'zips' | 'zip';
  readonly type: 'half' | 'float';
  /** Names for the pass's components where they differ from the usual ones; fewer leave some out. */
  readonly channels?: readonly string[];
  /**
   * What went wrong inside the picture: a bucket that was never written, pixels without a number, nothing at all, values that
   * are a sixth too small, paths that found a light by chance.
   */
  readonly damage?: 'bucket' | 'nan' | 'blank' | 'dim' | 'sparks';
  /** One value a pixel, which an EXR keeps as the pass's own alpha. */
  readonly alpha?: Float32Array;
  /** The part of the picture that an EXR keeps; all of it where nothing is said. Passes that share a file share that of the first. */
  readonly dataWindow?: PixelWindow;
}

/** What the render node notes in the file. */
export interface FrameNotes {
  readonly host: string;
  readonly samples: number;
  readonly frame: number;
  readonly camera?: string;
  /** Version of the shot's settings. */
  readonly version?: string;
  /**
   * Seconds that the frame costs on its machine, by the rays that it took: so that the same seed
   * gives the same bytes, whatever else the computer was doing.
   */
  readonly renderTime?: number;
}

/**
 * Writes the passes that share a file as the bytes of that file; a PNG holds one pass. The same
 * frame gives the same bytes.
 */
export function encodePasses(frame: RenderedFrame, files: readonly PassFile[], notes: FrameNotes): Uint8Array {
  const written = files.some((file) => file.damage) ? damaged(frame, files) : frame;
  return files[0]!.format === 'exr' ? asExr(written, files, notes) : asPng(written, files[0]!, notes);
}

/** Buckets are squares of a twelfth of the picture's width. */
const BUCKETS_ACROSS = 12;

/** What is left of values that are too small. */
const DIMMED = 5 / 6;
/** Light of a spark, and how many pixels lie between them. */
const SPARK = 4;
const SPARKS_APART = 37;

/** Single pixels all over the picture, in no row. */
function sparkPlaces({ width, height }: RenderedFrame): [number, number][] {
  const places: [number, number][] = [];
  for (let i = SPARKS_APART; i < width * height; i += SPARKS_APART * 8) places.push([(i * 7) % width, Math.floor(i / width)]);
  return places;
}

/** A copy of a frame with the damage that its files ask for. */
function damaged(frame: RenderedFrame, files: readonly PassFile[]): RenderedFrame {
  const copy = { ...frame };
  for (const { pass, damage } of files) {
    if (!damage) continue;
    const values = (copy[pass] = frame[pass].slice());
    const stride = PASS_COMPONENTS[pass].length;
    const erase = (x: number, y: number, value: number) => values.fill(value, (y * frame.width + x) * stride, (y * frame.width + x + 1) * stride);
    if (damage === 'blank') values.fill(0);
    else if (damage === 'dim') values.forEach((value, i) => (values[i] = stride === 4 && i % 4 === 3 ? value : value * DIMMED));
    else if (damage === 'sparks') for (const [x, y] of sparkPlaces(frame)) erase(x, y, SPARK);
    else if (damage === 'nan') for (let x = 0; x < 3; x++) erase(Math.floor(frame.width / 2) + x, Math.floor(frame.height / 2), NaN);
    else {
      const size = Math.max(8, Math.floor(frame.width / BUCKETS_ACROSS));
      const left = Math.floor((frame.width * 0.5) / size) * size;
      const top = Math.floor((frame.height * 0.4) / size) * size;
      for (let y = top; y < Math.min(frame.height, top + size); y++) for (let x = left; x < Math.min(frame.width, left + size); x++) erase(x, y, 0);
    }
  }
  return copy;
}

function asExr(frame: RenderedFrame, files: readonly PassFile[], notes: FrameNotes): Uint8Array {
  const window = [0, 0, frame.width - 1, frame.height - 1] as const;
  const kept = files[0]!.dataWindow ?? window;
  return encodeExr(
    {
      dataWindow: kept,
      displayWindow: window,
      pixelAspect: 1,
      compression: files[0]!.compression,
      channels: files.flatMap((file, i) => exrChannels(frame, file, i > 0, kept)),
      metadata: metadataOf(notes),
    },
    tools,
  );
}

/** What stands in the file, under the same names in every format. */
function metadataOf({ host, samples, frame, camera, version, renderTime }: FrameNotes): Record<string, string | { int: number } | { float: number }> {
  return {
    software: 'stand-in farm',
    hostComputer: host,
    samples: { int: samples },
    frame: { int: frame },
    ...(camera === undefined ? {} : { camera }),
    ...(version === undefined || version === '' ? {} : { version }),
    ...(renderTime === undefined ? {} : { renderTime: { float: renderTime } }),
  };
}

/** @param layer whether the pass lies in another's file, so that its channels need its name before them */
function exrChannels(frame: RenderedFrame, file: PassFile, layer: boolean, [left, top, right, bottom]: PixelWindow): ExrChannelData[] {
  const named = (name: string) => (layer ? `${file.pass}.${name}` : name);
  const names = file.channels ?? PASS_COMPONENTS[file.pass].map(named);
  const values = frame[file.pass];
  const stride = PASS_COMPONENTS[file.pass].length;
  const [width, height] = [right - left + 1, bottom - top + 1];
  const channel = (name: string, from: Float32Array, apart: number, offset: number): ExrChannelData => {
    const data = file.type === 'half' ? new Uint16Array(width * height) : new Float32Array(width * height);
    for (let i = 0; i < data.length; i++) {
      const value = from[((top + Math.floor(i / width)) * frame.width + left + (i % width)) * apart + offset]!;
      data[i] = file.type === 'half' ? floatToHalf(value) : value;
    }
    return { name, type: file.type, data };
  };
  const own = names.map((name, c) => channel(name, values, stride, c));
  return file.alpha ? [...own, channel(named('A'), file.alpha, 1, 0)] : own;
}

/** Depth further than this is white in an integer file. */
const FAR = 20;
/** Motion of this many pixels either way is the end of an integer file's values. */
const FAST = 64;
const COLOURS: readonly PassName[] = ['beauty', 'half1', 'half2', 'diffuse', 'specular', 'transmission', 'emission', 'albedo'];

function asPng(frame: RenderedFrame, file: PassFile, given: FrameNotes): Uint8Array {
  const { width, height } = frame;
  const notes = Object.fromEntries(
    Object.entries(metadataOf(given)).map(([name, value]) => [name, typeof value === 'string' ? value : String('int' in value ? value.int : value.float)]),
  );
  return COLOURS.includes(file.pass)
    ? encodePng({ width, height, notes, ...colourSamples(frame, file) }, tools)
    : encodePng({ width, height, notes, ...valueSamples(frame, file.pass) }, tools);
}

/** Colours as 8 bits by the sRGB curve; the beauty with its alpha straight (PNG section 4.3.2). */
function colourSamples(frame: RenderedFrame, file: PassFile): { samplesPerPixel: 3 | 4; data: Uint8Array } {
  const source = frame[file.pass];
  const stride = PASS_COMPONENTS[file.pass].length;
  const kept = Math.min(stride, file.channels?.length ?? stride) as 3 | 4;
  const data = new Uint8Array(frame.width * frame.height * kept);
  for (let i = 0; i < frame.width * frame.height; i++) {
    const alpha = stride === 4 ? source[i * 4 + 3] : 1;
    for (let c = 0; c < kept; c++) {
      const value = source[i * stride + c];
      data[i * kept + c] = Math.round(255 * (c === 3 ? Math.min(1, alpha) : encodeSRgb(alpha > 0 ? value / alpha : 0)));
    }
  }
  return { samplesPerPixel: kept, data };
}

/** Values as 16 bits, evenly spread over what the pass can hold. */
function valueSamples(frame: RenderedFrame, pass: PassName): { samplesPerPixel: 1 | 3; data: Uint16Array } {
  const source = frame[pass];
  const stride = PASS_COMPONENTS[pass].length;
  const samplesPerPixel = stride === 1 ? 1 : 3;
  const share: (value: number) => number =
    pass === 'depth'
      ? (value) => value / FAR
      : pass === 'normal'
        ? (value) => (value + 1) / 2
        : pass === 'motion'
          ? (value) => (value / FAST + 1) / 2
          : (value) => value;
  const data = new Uint16Array(frame.width * frame.height * samplesPerPixel);
  for (let i = 0; i < frame.width * frame.height; i++) {
    for (let c = 0; c < stride; c++) data[i * samplesPerPixel + c] = Math.round(65535 * Math.min(1, Math.max(0, share(source[i * stride + c]))));
  }
  return { samplesPerPixel, data };
}
