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
  /** Joins neighbouring pixels of the noise. */
  readonly wide?: boolean;
  readonly features?: boolean;
  readonly vectors?: boolean;
}

export function noiseField({ sigma, seed = 1, wide = false }: Look, count = COUNT): Float32Array {
  const { normal } = generator(seed);
  const white = Float32Array.from({ length: count }, () => sigma * normal());
  if (!wide) return white;
  const blurred = new Float32Array(COUNT);
  const weights = [1, 2, 1, 2, 4, 2, 1, 2, 1].map((weight) => weight / 6);
  for (let y = 1; y < HEIGHT - 1; y++)
    for (let x = 1; x < WIDTH - 1; x++)
      weights.forEach((weight, i) => (blurred[y * WIDTH + x]! += weight * white[(y + Math.floor(i / 3) - 1) * WIDTH + x + (i % 3) - 1]!));
  return blurred;
}

export function frameOf(number: number, look: Look, width = WIDTH, height = HEIGHT): NoiseBuffers {
  const { features = true, vectors = true } = look;
  const count = width * height;
  const at = (of: (x: number, y: number) => number) => Float32Array.from({ length: count }, (_, i) => of((i % width) + number * SPEED, Math.floor(i / width)));
  const noise = noiseField({ ...look, seed: look.seed ?? 100 + number }, count);
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

export function measure(frames: readonly NoiseBuffers[], isInteger = false) {
  const measured = frames.map((frame, i) => {
    const beside = frame.motion
      ? [
          ...(i > 0 ? [{ at: i - 1, frame: frames[i - 1]!, places: placesInPrevious(frame) }] : []),
          ...(i < frames.length - 1 ? [{ at: i + 1, frame: frames[i + 1]!, places: placesInNext(frame, frames[i + 1]!) }] : []),
        ]
      : [];
    return { figures: measureFrame(frame, beside), neighbours: beside.map(({ at }) => at) };
  });
  return noiseAlongShot(measured, frames[0]!.albedo !== null, isInteger);
}

export const shot = (look: Look) => Array.from({ length: 5 }, (_, number) => frameOf(number, look));
export const tilesOf = (field: Float32Array) =>
  Array.from({ length: 24 }, (_, tile) => {
    let sum = 0;
    for (let i = 0; i < 256; i++) sum += field[((Math.floor(tile / 6) * 16 + (i >> 4)) * WIDTH + (tile % 6) * 16 + (i & 15)) as number]! ** 2;
    return Math.sqrt(sum / 256);
  });
