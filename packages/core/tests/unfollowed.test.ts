import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { measureFrame, placesInPrevious, type NoiseBuffers } from '../src/index.ts';
import { COUNT, frameOf, generator, light, measure, SPEED, WIDTH } from './noisy-wall.ts';

/** A wall out of focus: its paint is soft, and a lens's chance is in albedo and picture alike. */
interface Blurred {
  /** Standard deviations of chance that both share, in albedo; and of that of the picture alone. */
  readonly shared: number;
  readonly own?: number;
  /** How many times as bright it is. */
  readonly bright?: number;
  /** What the paint is like, and how fast it goes by, where that is not as the vectors say. */
  readonly paint?: (x: number, y: number) => number;
  readonly speed?: number;
  readonly heldSeeds?: boolean;
}

const OWN = 0.006;
const soft = (x: number, y: number) => 0.4 + 0.15 * Math.sin(x / 9 + y / 13);

function blurred(number: number, { shared, own = OWN, bright = 1, paint = soft, speed = SPEED, heldSeeds = false }: Blurred): NoiseBuffers {
  const { normal } = generator(heldSeeds ? 7 : 300 + number);
  const albedo = Float32Array.from({ length: COUNT }, (_, i) => paint((i % WIDTH) + number * speed, Math.floor(i / WIDTH)) + shared * normal());
  const lit = (i: number) => light((i % WIDTH) + number * SPEED, Math.floor(i / WIDTH));
  const luminance = albedo.map((value, i) => bright * (value * lit(i) + own * normal()));
  return { ...frameOf(number, { sigma: 0 }), luminance, albedo, depth: null };
}

/** What is told of its noise, over what it is. */
function told(look: Blurred): number[] {
  const { shared, own = OWN, bright = 1 } = look;
  const frames = Array.from({ length: 4 }, (_, number) => blurred(number, look));
  return measure(frames).frames.map(({ noise }, number) => {
    const lights = Array.from({ length: COUNT }, (_, i) => light((i % WIDTH) + number * SPEED, Math.floor(i / WIDTH)) ** 2);
    const meanSquare = lights.reduce((sum, value) => sum + value, 0) / COUNT;
    return noise! / (bright * Math.sqrt(own ** 2 + shared ** 2 * meanSquare));
  });
}

const off = (shares: readonly number[]) => Math.max(...shares.map((share) => Math.abs(share - 1)));

describe('noise that features share all over', () => {
  it.each([0.005, 0.01, 0.03])('is given back (%f beside a noise of .006)', (shared) => {
    expect(off(told({ shared }))).toBeLessThan(0.07);
  });

  it('is none where features have none', () => {
    expect(off(told({ shared: 0 }))).toBeLessThan(0.06);
  });

  it('is given back in any light', () => {
    fc.assert(
      fc.property(fc.double({ min: 1e-3, max: 1e3, noNaN: true }), (bright) => {
        const [dim, usual] = [told({ shared: 0.02, bright }), told({ shared: 0.02 })];
        dim.forEach((share, i) => expect(share / usual[i]!).toBeCloseTo(1, 2));
      }),
      { numRuns: 6 },
    );
  });

  it('is not looked for where seeds are held: a neighbour has the same', () => {
    for (const share of told({ shared: 0.01, heldSeeds: true })) expect(share).toBeLessThan(1.1);
  });
});

describe('structure that a neighbour does not show', () => {
  it('is none, where vectors follow a fine paint', () => {
    const { even } = generator(5);
    const grains = Float32Array.from({ length: 4096 }, even);
    expect(off(told({ shared: 0, paint: (x, y) => 0.3 + 0.4 * grains[(x * 31 + y * 57) & 4095]! }))).toBeLessThan(0.07);
  });

  it('is none, where features know nothing of it and are fitted to it all the same', () => {
    const { even } = generator(6);
    const grains = Float32Array.from({ length: 4096 }, even);
    const frames = Array.from({ length: 4 }, (_, number) => {
      const frame = blurred(number, { shared: 0 });
      const luminance = frame.luminance.map((value, i) => value + 0.4 * grains[(((i % WIDTH) + number * SPEED) * 31 + Math.floor(i / WIDTH) * 57) & 4095]!);
      // Wavy, so that there is something to fit.
      const waves = [5, 7, 11].map((length) =>
        Float32Array.from({ length: COUNT }, (_, i) => Math.sin(((i % WIDTH) + number * SPEED) / length + i / WIDTH / 3)),
      );
      return { ...frame, luminance, normal: waves as [Float32Array, Float32Array, Float32Array] };
    });
    for (const { noise } of measure(frames).frames) expect(noise! / OWN).toBeLessThan(1.12);
    // What they explain of it all the same is as white as noise, and new in each frame.
    const { unfollowed, byFeatures } = measureFrame(frames[1]!, [{ frame: frames[0]!, places: placesInPrevious(frames[1]!) }]);
    const told = Array.from(unfollowed!.variance, (variance, tile) => variance / byFeatures[tile]!).filter(Number.isFinite);
    expect(told.reduce((sum, share) => sum + share, 0) / unfollowed!.asked).toBeLessThan(0.001);
  });

  it('is no noise, where edges go another way than vectors say', () => {
    // Jagged bars, whose edges stand out of what is around them.
    const bars = (x: number, y: number) => ((x + Math.floor(y / 3)) % 22 < 11 ? 0.25 : 0.6);
    expect(off(told({ shared: 0, paint: bars, speed: SPEED + 7 }))).toBeLessThan(0.1);
  });
});
