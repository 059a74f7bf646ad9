import { greyOf, knownNoise, type FrameToSteady, type PictureToDenoise } from '../src/index.ts';

/** Small pictures with known noise, to take it out of. */
export const [WIDTH, HEIGHT] = [120, 88];
export const COUNT = WIDTH * HEIGHT;
export const TILES = Math.ceil(WIDTH / 16) * Math.ceil(HEIGHT / 16);
export const SIGMA = 0.08;

export const plane = (of: (x: number, y: number) => number) => Float32Array.from({ length: COUNT }, (_, i) => of(i % WIDTH, Math.floor(i / WIDTH)));
export const light = plane((x, y) => 0.6 + 0.3 * Math.sin(x / 30) * Math.cos(y / 25));
export const bricks = plane((x, y) => 0.3 + 0.25 * (((x >> 2) + (y >> 3)) % 3));
export const rootMeanSquare = (values: ArrayLike<number>) => Math.sqrt(Array.from(values).reduce((sum, value) => sum + value * value, 0) / values.length);
export const apart = (a: Float32Array, b: Float32Array) => rootMeanSquare(a.map((value, i) => value - b[i]!));

export function pictureOf(truth: Float32Array, more: Partial<PictureToDenoise> = {}, sigma = SIGMA, seed = 7): PictureToDenoise {
  const noise = knownNoise(COUNT, seed);
  const colours = [1, 0.8, 0.5].map((tint) => truth.map((value, i) => tint * (value + sigma * noise[i]!)));
  return {
    width: WIDTH,
    height: HEIGHT,
    channels: ['R', 'G', 'B'],
    colours,
    luminance: greyOf(colours),
    holes: null,
    alpha: null,
    albedo: null,
    normal: null,
    depth: null,
    motion: null,
    ...more,
  };
}

export const tinted = greyOf([1, 0.8, 0.5].map((tint) => new Float32Array([tint])))[0]!;
export const sigmas = (sigma = SIGMA) => new Float64Array(TILES).fill(sigma * tinted);
/** Of one part of the picture: its colours, less what is true. */
export const errorOf = (colours: readonly Float32Array[], truth: Float32Array) => apart(colours[0]!, truth);

export const SPEED = 1.5;

/** A frame of a wall that goes by, with what a filter left of the noise. */
export function passing(number: number, left = 0.02, extra: (x: number, y: number) => number = () => 0): FrameToSteady {
  const noise = knownNoise(COUNT, 50 + number).map((value) => value * left);
  const wall = plane((x, y) => 0.6 + 0.3 * Math.sin((x + SPEED * number) / 5) * Math.cos(y / 7) + extra(x, y));
  return {
    width: WIDTH,
    height: HEIGHT,
    colours: [wall.map((value, i) => value + noise[i]!)],
    lights: [],
    left: noise,
    leftAround: new Float32Array(COUNT).fill(left ** 2),
    deviation: new Float32Array(COUNT).fill(3 * left),
    depth: null,
    normal: null,
    motion: [new Float32Array(COUNT).fill(SPEED), new Float32Array(COUNT)],
  };
}
