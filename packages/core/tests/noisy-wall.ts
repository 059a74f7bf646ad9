import { measureFrame, noiseAlongShot, placesInNext, placesInPrevious, type NoiseBuffers } from '../src/index.ts';

export const [WIDTH, HEIGHT] = [96, 64];
export const COUNT = WIDTH * HEIGHT;

/** Numbers spread evenly over 0..1, and normally around 0. */
export function generator(seed: number) {
  let state = seed >>> 0;
  const even = () => {
    state = (Math.imul(state ^ (state >>> 15), 0x2c1b3c6d) + 0x9e3779b9) >>> 0;
    return ((state ^ (state >>> 13)) >>> 0) / 2 ** 32;
  };
  return { even, normal: () => Math.sqrt(-2 * Math.log(1 - even())) * Math.cos(2 * Math.PI * even()) };
}

/** A wall of small bricks that the camera goes along, so many pixels a frame, lit from one side. */
export const SPEED = 2;
export const brick = (x: number, y: number) => 0.3 + 0.25 * (((x >> 2) + (y >> 3)) % 3) + 0.1 * Math.sin(x * 1.7 + y * 0.9);
export const light = (x: number, y: number) => 0.6 + 0.4 * Math.sin(x / 40) * Math.cos(y / 30);

interface Look {
  readonly sigma: number;
  readonly seed?: number;
  /** The pixel filter: what each neighbour along a line or a column counts for, beside the pixel itself. */
  readonly beside?: number;
  readonly features?: boolean;
  readonly vectors?: boolean;
}

export function noiseField({ sigma, seed = 1, beside = 0 }: Look, count = COUNT, width = WIDTH): Float32Array {
  const { normal } = generator(seed);
  const white = Float32Array.from({ length: count }, () => sigma * normal());
  if (beside === 0) return white;
  // Both ways, so that it is as much noise as before, but for the edges of the picture.
  const joined = (values: Float32Array, apart: number) =>
    values.map((value, i) => (value + beside * ((values[i - apart] ?? 0) + (values[i + apart] ?? 0))) / Math.sqrt(1 + 2 * beside ** 2));
  return joined(joined(white, 1), width);
}

export function frameOf(number: number, look: Look, width = WIDTH, height = HEIGHT): NoiseBuffers {
  const { features = true, vectors = true } = look;
  const count = width * height;
  const at = (of: (x: number, y: number) => number) => Float32Array.from({ length: count }, (_, i) => of((i % width) + number * SPEED, Math.floor(i / width)));
  const noise = noiseField({ ...look, seed: look.seed ?? 100 + number }, count, width);
  const albedo = at(brick);
  return {
    width,
    height,
    luminance: albedo.map((value, i) => value * light((i % width) + number * SPEED, Math.floor(i / width)) + noise[i]!),
    alpha: null,
    albedo: features ? albedo : null,
    normal: null,
    depth: features ? at(() => 5) : null,
    motion: vectors ? [new Float32Array(count).fill(SPEED), new Float32Array(count)] : null,
  };
}

export function measure(frames: readonly NoiseBuffers[]) {
  const measured = frames.map((frame, i) => {
    const beside = frame.motion
      ? [
          ...(i > 0 ? [{ at: i - 1, frame: frames[i - 1]!, places: placesInPrevious(frame) }] : []),
          ...(i < frames.length - 1 ? [{ at: i + 1, frame: frames[i + 1]!, places: placesInNext(frame, frames[i + 1]!) }] : []),
        ]
      : [];
    return { figures: measureFrame(frame, beside), neighbours: beside.map(({ at }) => at) };
  });
  return noiseAlongShot(measured, frames[0]!.albedo !== null);
}

export const shot = (look: Look) => Array.from({ length: 5 }, (_, number) => frameOf(number, look));
export const tilesOf = (field: Float32Array) =>
  Array.from({ length: 24 }, (_, tile) => {
    let sum = 0;
    for (let i = 0; i < 256; i++) sum += field[((Math.floor(tile / 6) * 16 + (i >> 4)) * WIDTH + (tile % 6) * 16 + (i & 15)) as number]! ** 2;
    return Math.sqrt(sum / 256);
  });
