import { existsSync, mkdirSync, renameSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { encodeSRgb, halfToFloat, type DecodedFrame, type FrameHeader, type Plane } from '@mint-tally/core';
import sharp from 'sharp';
import type { Layer } from './layers.ts';

// The pool has a thread a core already; more inside each would only compete.
sharp.concurrency(1);
sharp.cache(false);

/** Longest side of a proxy, in pixels. */
const LONGEST_SIDE = 960;

/** Of 0 to 6. More effort takes up to five times as long, longer than the frame's whole check, for files hardly smaller. */
const ENCODING_EFFORT = 1;

/** Where the proxy of a file's content lies. The same content has one proxy, wherever it stands. */
export function proxyPath(folder: string, sha256: string, layer: Layer): string {
  return path.join(folder, sha256.slice(0, 2), `${sha256}${layer.key === '' ? '' : `-${layer.key}`}.webp`);
}

/** Makes a small 8 bit picture of a frame for the screen, unless there is one. */
export async function writeProxy(folder: string, sha256: string, layer: Layer, frame: DecodedFrame): Promise<void> {
  const target = proxyPath(folder, sha256, layer);
  if (existsSync(target)) return;
  const picture = renderForScreen(frame, layer);
  if (!picture) return;
  const bytes = await sharp(picture.data, { raw: { width: picture.width, height: picture.height, channels: 3 } })
    .resize({ width: LONGEST_SIDE, height: LONGEST_SIDE, fit: 'inside', withoutEnlargement: true })
    .webp({ quality: 88, effort: ENCODING_EFFORT })
    .toBuffer();
  // Synchronous: so small a file is written before another thread could be asked to.
  mkdirSync(path.dirname(target), { recursive: true });
  // Written aside and moved, so that nobody ever reads half a picture.
  const aside = `${target}.${process.pid}.${Math.random().toString(36).slice(2)}.tmp`;
  writeFileSync(aside, bytes);
  renameSync(aside, target);
}

/**
 * Turns planes into sRGB bytes: colour as it is (scene-linear floats through the sRGB curve), a
 * vector's components from -1..1, a single float channel such as depth spread over its own range,
 * near bright and far dark.
 */
export function renderForScreen(frame: DecodedFrame, layer: Layer): Picture | null {
  const own = frame.planes.filter((plane) => layer.channels === null || layer.channels.includes(plane.channel));
  if (own.length === 0) return null;
  const { width, height } = own[0];
  const planes = choosePlanes(own.filter((plane) => plane.width === width && plane.height === height));
  const data = new Uint8Array(width * height * 3);
  const integers = planes[0].type === 'u8' || planes[0].type === 'u16';
  const isVector = planes.length === 3 && !integers && !/(^|\.)[RGB]$/.test(planes[0].channel);
  const toByte = integers
    ? null
    : planes.length === 1 && !/(^|\.)[AY]$/.test(planes[0].channel)
      ? spreadMapper(planes[0])
      : isVector
        ? vectorMapper
        : linearMapper;
  for (let c = 0; c < 3; c++) {
    const plane = planes[Math.min(c, planes.length - 1)];
    fillChannel(data, c, plane, toByte);
  }
  return placeInDisplay({ data, width, height }, frame.header);
}

interface Picture {
  readonly data: Uint8Array;
  readonly width: number;
  readonly height: number;
}

/** A display window with more pixels than this is believed of no header. */
const MAXIMUM_DISPLAY_PIXELS = 64 * 2 ** 20;

/** Pixels of a data window that differs from the display window go where they belong; the rest is black. */
function placeInDisplay(picture: Picture, header: FrameHeader): Picture {
  const { dataWindow: data, displayWindow: display } = header;
  if (!data || !display || data.every((edge, i) => edge === display[i])) return picture;
  const [width, height] = [display[2] - display[0] + 1, display[3] - display[1] + 1];
  // Sampled channels are smaller than their window; they are shown as they are.
  if (width * height > MAXIMUM_DISPLAY_PIXELS || picture.width !== data[2] - data[0] + 1 || picture.height !== data[3] - data[1] + 1) return picture;
  const out = new Uint8Array(width * height * 3);
  const left = Math.max(data[0], display[0]);
  const right = Math.min(data[2], display[2]);
  for (let y = Math.max(data[1], display[1]); y <= Math.min(data[3], display[3]) && right >= left; y++) {
    const from = ((y - data[1]) * picture.width + left - data[0]) * 3;
    out.set(picture.data.subarray(from, from + (right - left + 1) * 3), ((y - display[1]) * width + left - display[0]) * 3);
  }
  return { data: out, width, height };
}

function choosePlanes(planes: readonly Plane[]): readonly Plane[] {
  const ending = (letters: string) =>
    [...letters].map(
      (letter) => planes.find((plane) => plane.channel.toUpperCase() === letter) ?? planes.find((plane) => plane.channel.toUpperCase().endsWith(`.${letter}`)),
    );
  for (const letters of ['RGB', 'XYZ']) {
    const chosen = ending(letters);
    if (chosen.every((plane) => plane !== undefined)) return chosen as Plane[];
  }
  return planes.slice(0, 1);
}

type Mapper = (value: number) => number;

function fillChannel(data: Uint8Array, channel: number, plane: Plane, toByte: Mapper | null): void {
  const { data: source, offset, stride } = plane;
  const count = plane.width * plane.height;
  if (toByte === null) {
    const shift = plane.type === 'u16' ? 8 : 0;
    for (let i = 0; i < count; i++) data[i * 3 + channel] = source[offset + i * stride] >> shift;
  } else if (plane.type === 'half') {
    // 65,536 values at most: worked out once each.
    const table = new Uint8Array(65536);
    for (let bits = 0; bits < 65536; bits++) table[bits] = toByte(halfToFloat(bits));
    for (let i = 0; i < count; i++) data[i * 3 + channel] = table[source[offset + i * stride]];
  } else {
    for (let i = 0; i < count; i++) data[i * 3 + channel] = toByte(source[offset + i * stride]);
  }
}

function linearMapper(value: number): number {
  return Math.round(encodeSRgb(value) * 255);
}

function vectorMapper(value: number): number {
  const scaled = (value + 1) * 127.5;
  return scaled > 0 ? Math.min(255, Math.round(scaled)) : 0;
}

/** A curve over a plane's own range. Far values as large as "nothing there" stay out of it. */
function spreadMapper(plane: Plane): Mapper {
  const decode = plane.type === 'half' ? halfToFloat : (value: number) => value;
  let low = Infinity;
  let high = -Infinity;
  const count = plane.width * plane.height;
  for (let i = 0; i < count; i++) {
    const value = decode(plane.data[plane.offset + i * plane.stride]);
    if (!Number.isFinite(value) || Math.abs(value) >= 60_000) continue;
    if (value < low) low = value;
    if (value > high) high = value;
  }
  const span = high > low ? high - low : 1;
  return (value) => {
    const share = (value - low) / span;
    return Number.isNaN(share) ? 0 : Math.round(255 * (1 - Math.min(1, Math.max(0, share))));
  };
}
