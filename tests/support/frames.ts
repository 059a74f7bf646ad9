import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import zlib from 'node:zlib';
import { encodePng } from '@mint-tally/core';

const tools = { deflate: (data: Uint8Array) => zlib.deflateSync(data), crc32: (data: Uint8Array) => zlib.crc32(data) };

/** A small sound PNG; another seed gives other pixels. */
export function pngBytes(seed = 1, width = 32, height = 18): Uint8Array {
  const data = Uint8Array.from({ length: width * height * 3 }, (_, i) => Math.imul(i + 1 + seed * 7919, 2654435761) >>> 24);
  return encodePng({ width, height, samplesPerPixel: 3, data }, tools);
}

/** Writes `beauty.1001.png` and so on, each with pixels of its own: no pass looks like another. */
export function writeSequence(folder: string, first: number, last: number, name = (frame: number) => `beauty.${frame}.png`): void {
  for (let frame = first; frame <= last; frame++) {
    const file = path.join(folder, name(frame));
    mkdirSync(path.dirname(file), { recursive: true });
    writeFileSync(file, pngBytes(seedOf(name(frame))));
  }
}

function seedOf(name: string): number {
  return [...name].reduce((sum, letter) => (Math.imul(sum, 31) + letter.charCodeAt(0)) & 0xffff, 7);
}
