import { existsSync, mkdirSync, renameSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { renderForScreen, type DecodedFrame } from '@mint-tally/core';
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
  const picture = renderForScreen(frame, layer.channels);
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
