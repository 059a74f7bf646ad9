import { describe, expect, it } from 'vitest';
import { measureFrame, placesInPrevious, type NoiseBuffers } from '../src/index.ts';
import { generator } from './noisy-wall.ts';

const [WIDTH, HEIGHT] = [160, 96];
const COUNT = WIDTH * HEIGHT;
/** What the vectors say that a frame goes on by. */
const SPEED = 5;

/** A mirror amid noise, of six tiles by two, with glints in it that are many times the noise. */
const isMirror = (x: number, y: number) => x >= 32 && x < 128 && y >= 32 && y < 64;
function frameOf(number: number, glint: (x: number, y: number) => number): NoiseBuffers {
  const { normal } = generator(90 + number);
  return {
    width: WIDTH,
    height: HEIGHT,
    luminance: Float32Array.from({ length: COUNT }, (_, i) => {
      const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
      return 0.5 + 0.005 * normal() + (isMirror(x, y) ? glint(x, y) : 0);
    }),
    alpha: null,
    albedo: new Float32Array(COUNT).fill(0.4),
    normal: null,
    depth: new Float32Array(COUNT).fill(5),
    motion: [new Float32Array(COUNT).fill(SPEED), new Float32Array(COUNT)],
  };
}

/** How well the tiles of the mirror that were cut are found again. */
function found(glints: (number: number) => (x: number, y: number) => number): number[] {
  const [before, frame] = [0, 1].map((number) => frameOf(number, glints(number))) as [NoiseBuffers, NoiseBuffers];
  measureFrame(before, []);
  const { persistence, grid } = measureFrame(frame, [{ frame: before, places: placesInPrevious(frame) }]);
  return Array.from(persistence).filter((value, tile) => isMirror((tile % grid.across) * 16, Math.floor(tile / grid.across) * 16) && !Number.isNaN(value));
}

const { even } = generator(4);
const sparks = Float32Array.from({ length: 1 << 14 }, () => (even() < 0.02 ? 0.3 + 0.3 * even() : 0));
const sparkAt = (x: number, y: number) => sparks[(((y + 64) & 127) << 7) + ((x + 64) & 127)]!;

describe('spikes that stand out', () => {
  it.each([
    ['stand still', 0, 0],
    ['go another way than the vectors say', 3, -2],
    ['go a little beside where the vectors lead', 8, 1],
  ])('are found again where they %s', (_, across, down) => {
    const values = found((number) => (x, y) => sparkAt(x + number * across, y + number * down));
    expect(values.length).toBeGreaterThan(7);
    // Some have come from beyond the mirror.
    expect(values.filter((value) => value > 0.6).length).toBeGreaterThan(0.7 * values.length);
  });

  it('are not where they are new in each frame', () => {
    const values = found((number) => (x, y) => sparkAt(x + number * 57, y + number * 41));
    expect(values.length).toBeGreaterThan(7);
    expect(values.filter((value) => value > 0.6).length).toBeLessThan(0.2 * values.length);
  });

  it('are not looked for where nothing was cut', () => {
    expect(found(() => () => 0)).toEqual([]);
  });
});
