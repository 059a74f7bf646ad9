import zlib from 'node:zlib';
import { encodeExr, encodePng, floatToHalf } from '@mint-tally/core';

const tools = { deflate: (data: Uint8Array) => zlib.deflateSync(data, { level: 6 }), crc32: (data: Uint8Array) => zlib.crc32(data) };

/** Size of the pictures that are looked into. */
export const [WIDTH, HEIGHT] = [1920, 1080];

/** A small picture that is another one in every frame and pass, as rendered ones are. */
export function smallPng(frame: number, pass: number): Uint8Array {
  const data = Uint8Array.from({ length: 32 * 18 * 3 }, (_, i) => ((i * (5 + pass)) & 0x7f) + (Math.imul(i * 7919 + frame, 2654435761) >>> 28));
  return encodePng({ width: 32, height: 18, samplesPerPixel: 3, data }, tools);
}

/** Numbers without a pattern, 0 to 1, the same at each run. */
function noiseFrom(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}

/** Soft gradients with the noise of a render, of two or three code values: packs as such frames do. */
export function pictureLikePng(seed: number): Uint8Array {
  const noise = noiseFrom(seed);
  const data = new Uint8Array(WIDTH * HEIGHT * 3);
  for (let i = 0; i < data.length; i++) {
    const pixel = Math.floor(i / 3);
    data[i] = 90 + 60 * Math.sin((pixel % WIDTH) / 300 + (i % 3)) + (pixel / WIDTH) * 0.05 + 5 * (noise() - 0.5);
  }
  return encodePng({ width: WIDTH, height: HEIGHT, samplesPerPixel: 3, data }, tools);
}

/** The same as half floats with an alpha, packed with zip. */
export function pictureLikeExr(seed: number): Uint8Array {
  const noise = noiseFrom(seed);
  const window = [0, 0, WIDTH - 1, HEIGHT - 1] as const;
  const channels = ['R', 'G', 'B', 'A'].map((name, c) => ({
    name,
    type: 'half' as const,
    data: Uint16Array.from({ length: WIDTH * HEIGHT }, (_, i) =>
      floatToHalf(c === 3 ? Math.min(1, Math.max(0, ((i % WIDTH) - 300) / 50)) : 0.4 + 0.3 * Math.sin((i % WIDTH) / 300 + c) + 0.02 * (noise() - 0.5)),
    ),
  }));
  return encodeExr({ dataWindow: window, displayWindow: window, pixelAspect: 1, compression: 'zip', channels, metadata: {} }, tools);
}

export function halfFrame(): Uint8Array {
  const [width, height] = [640, 360];
  const data = Uint16Array.from({ length: width * height }, (_, i) => floatToHalf(0.5 + 0.4 * Math.sin(i * 0.01)));
  const window = [0, 0, width - 1, height - 1] as const;
  const channels = ['R', 'G', 'B', 'A'].map((name) => ({ name, type: 'half' as const, data }));
  return encodeExr({ dataWindow: window, displayWindow: window, pixelAspect: 1, compression: 'zip', channels, metadata: {} }, tools);
}
