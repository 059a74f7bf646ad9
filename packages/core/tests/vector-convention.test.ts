import { describe, expect, it } from 'vitest';
import { findConvention, USUAL_CONVENTION, type Convention, type NoiseBuffers, type VectorWitness } from '../src/index.ts';

const [WIDTH, HEIGHT] = [160, 90];

/** A texture of waves, moved by so many pixels. */
function pictureAt(right: number, down: number): NoiseBuffers {
  const at = (i: number) => {
    const [x, y] = [(i % WIDTH) - right, Math.floor(i / WIDTH) - down];
    return 0.5 + 0.2 * Math.sin(x / 2.3 + 0.4 * Math.sin(y / 5)) + 0.2 * Math.cos(y / 1.9 + x / 11);
  };
  const albedo = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => at(i));
  return { width: WIDTH, height: HEIGHT, luminance: albedo, alpha: null, albedo, normal: null, depth: null, motion: null };
}

/** A camera that goes along evenly, with vectors as a convention has them. */
function witness(right: number, down: number, { sign, down: isDown, unit, neighbour }: Convention = USUAL_CONVENTION): VectorWitness {
  const side = neighbour === 'before' ? -1 : 1;
  const [ofWidth, ofHeight] = unit === 'pixel' ? [1, 1] : unit === 'picture' ? [WIDTH, HEIGHT] : [WIDTH / 2, HEIGHT / 2];
  const plane = (value: number) => new Float32Array(WIDTH * HEIGHT).fill(value);
  return {
    frame: pictureAt(0, 0),
    vectors: [plane((side * sign * right) / ofWidth), plane((side * sign * (isDown ? 1 : -1) * down) / ofHeight)],
    before: pictureAt(-right, -down),
    after: pictureAt(right, down),
  };
}

/** What is the same of either neighbour where things go on as they came. */
const asBefore = ({ sign, neighbour, ...others }: Convention) => ({ ...others, sign: neighbour === 'before' ? sign : -sign });

describe('what motion vectors mean', () => {
  const units = ['pixel', 'picture', 'half picture'] as const;

  it.each(units.flatMap((unit) => [true, false].flatMap((down) => ([1, -1] as const).map((sign) => ({ unit, down, sign })))))(
    'is found of things that go both ways: %o',
    ({ unit, down, sign }) => {
      const convention: Convention = { sign, down, unit, neighbour: 'before' };
      const found = findConvention([witness(2.5, 1.5, convention)]);
      expect(found.convention).toEqual(convention);
      expect(found.residual).toBeLessThan(0.5);
    },
  );

  it.each(units)('is found in %s units of a camera that only turns sideways, whichever way down may be', (unit) => {
    for (const sign of [1, -1] as const) {
      const found = findConvention([witness(3, 0, { sign, down: true, unit, neighbour: 'before' })]);
      expect(found.convention).toEqual({ sign, down: true, unit, neighbour: 'before' });
      expect(found.residual).not.toBeNull();
    }
  });

  it('is found of a camera that only tilts, whichever way right may be', () => {
    const { convention, residual } = findConvention([witness(0, 3, { sign: 1, down: false, unit: 'picture', neighbour: 'before' })]);
    // Up in one sign is down in the other.
    expect([convention.unit, convention.sign * (convention.down ? 1 : -1)]).toEqual(['picture', -1]);
    expect(residual).not.toBeNull();
  });

  it('is the usual where nothing moves', () => {
    const found = findConvention([witness(0, 0, { sign: -1, down: true, unit: 'pixel', neighbour: 'before' })]);
    expect(found).toEqual({ convention: USUAL_CONVENTION, residual: null, isSaid: false });
  });

  it('asks no more frames than it takes, and all where they say nothing', () => {
    const asked: number[] = [];
    function* witnesses(...ways: number[]) {
      for (const way of ways) {
        asked.push(way);
        yield witness(way, way / 2);
      }
    }
    expect(findConvention(witnesses(3, 2, 1)).residual).not.toBeNull();
    expect(asked.splice(0)).toEqual([3]);
    expect(findConvention(witnesses(0, 3, 1)).residual).not.toBeNull();
    expect(asked.splice(0)).toEqual([0, 3]);
    expect(findConvention(witnesses(0, 0, 0)).residual).toBeNull();
    expect(asked).toEqual([0, 0, 0]);
  });

  it('tells vectors to the frame after as those from the frame before, where things go on as they came', () => {
    const convention: Convention = { sign: 1, down: true, unit: 'pixel', neighbour: 'after' };
    expect(asBefore(findConvention([witness(2.5, 1.5, convention)]).convention)).toEqual(asBefore(convention));
  });
});
