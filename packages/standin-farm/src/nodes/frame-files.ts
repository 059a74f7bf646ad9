import zlib from 'node:zlib';
import { encodeExr, encodePng, floatToHalf, type EncoderTools, type ExrChannelData } from '@mint-tally/core';
import type { RenderedFrame } from '../render/frame.ts';

const tools: EncoderTools = { deflate: (data) => zlib.deflateSync(data), crc32: (data) => zlib.crc32(data) };

export type PassName = 'beauty' | 'depth' | 'normal';

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
}

/** What the render node notes in the file. */
export interface FrameNotes {
  readonly host: string;
  readonly samples: number;
  readonly frame: number;
}

const COMPONENTS: Record<PassName, readonly string[]> = { beauty: ['R', 'G', 'B', 'A'], depth: ['Z'], normal: ['X', 'Y', 'Z'] };

/** Writes one pass as the bytes of a file. The same frame gives the same bytes. */
export function encodePass(frame: RenderedFrame, file: PassFile, notes: FrameNotes): Uint8Array {
  return file.format === 'exr' ? asExr(frame, file, notes) : asPng(frame, file);
}

function asExr(frame: RenderedFrame, file: PassFile, notes: FrameNotes): Uint8Array {
  const values = frame[file.pass];
  const names = file.channels ?? COMPONENTS[file.pass];
  const stride = COMPONENTS[file.pass].length;
  const count = frame.width * frame.height;
  const channels = names.map((name, c): ExrChannelData => {
    const data = file.type === 'half' ? new Uint16Array(count) : new Float32Array(count);
    for (let i = 0; i < count; i++) data[i] = file.type === 'half' ? floatToHalf(values[i * stride + c]) : values[i * stride + c];
    return { name, type: file.type, data };
  });
  const window = [0, 0, frame.width - 1, frame.height - 1] as const;
  return encodeExr(
    {
      dataWindow: window,
      displayWindow: window,
      pixelAspect: 1,
      compression: file.compression,
      channels,
      metadata: { software: 'stand-in farm', hostComputer: notes.host, samples: { int: notes.samples }, frame: { int: notes.frame } },
    },
    tools,
  );
}

/** Depth further than this is white in an integer file. */
const FAR = 20;

function asPng(frame: RenderedFrame, file: PassFile): Uint8Array {
  const { width, height } = frame;
  const count = width * height;
  if (file.pass === 'beauty') {
    const kept = file.channels?.length ?? 4;
    const data = new Uint8Array(count * kept);
    for (let i = 0; i < count; i++) {
      const alpha = frame.beauty[i * 4 + 3];
      for (let c = 0; c < kept; c++) {
        const value = frame.beauty[i * 4 + c];
        // PNG holds straight alpha (PNG section 4.3.2); the renderer's is premultiplied.
        data[i * kept + c] = Math.round(255 * (c === 3 ? Math.min(1, alpha) : sRgb(alpha > 0 ? value / alpha : 0)));
      }
    }
    return encodePng({ width, height, samplesPerPixel: kept as 3 | 4, data }, tools);
  }
  const samples = file.pass === 'depth' ? 1 : 3;
  const source = frame[file.pass];
  const data = new Uint16Array(count * samples);
  for (let i = 0; i < data.length; i++) {
    const share = file.pass === 'depth' ? source[i] / FAR : (source[i] + 1) / 2;
    data[i] = Math.round(65535 * Math.min(1, Math.max(0, share)));
  }
  return encodePng({ width, height, samplesPerPixel: samples, data }, tools);
}

/** The sRGB curve (IEC 61966-2-1), clipped to 0..1. */
function sRgb(value: number): number {
  if (!(value > 0)) return 0;
  return Math.min(1, value <= 0.0031308 ? 12.92 * value : 1.055 * value ** (1 / 2.4) - 0.055);
}
