import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { filterFrame, knownNoise, lightToDenoise, steadyFrame, trailBefore, type FrameToSteady, type LightPlanes } from '../src/index.ts';
import { apart, COUNT, errorOf, light, passing, pictureOf, plane, SIGMA, sigmas, WIDTH } from './noisy-pictures.ts';

/** Shares of a picture that sum to it. */
function lightsOf(colours: readonly Float32Array[], shares: readonly number[]): Float32Array[][] {
  const given = shares.map((share, l) => colours.map((values, c) => values.map((value, i) => value * share * (1 + 0.3 * Math.sin(i / (7 + l + c))))));
  const last = colours.map((values, c) => values.map((value, i) => value - given.reduce((sum, one) => sum + one[c]![i]!, 0)));
  return [...given, last];
}

/** By how much the lights of a picture do not sum to it, at most. */
function offSum(colours: readonly Float32Array[], lights: readonly LightPlanes[]): number {
  let most = 0;
  colours.forEach((values, c) => {
    for (let i = 0; i < COUNT; i++) most = Math.max(most, Math.abs(values[i]! - lights.reduce((sum, one) => sum + (one?.[c]?.[i] ?? 0), 0)));
  });
  return most;
}

describe('lights that go along with a picture', () => {
  const picture = pictureOf(light);

  it('sum to it afterwards as they did before, and change nothing of it, however many they are', () => {
    const alone = filterFrame(picture, sigmas(), 1, 1);
    for (const shares of [[0.6], [0.5, 0.2, 0.1], [0.2, 0.2, 0.1, 0.1, 0.1, 0.1, 0.05, 0.05]]) {
      const lights = lightsOf(picture.colours, shares);
      expect(offSum(picture.colours, lights)).toBeLessThan(1e-6);
      const filtered = filterFrame(picture, sigmas(), 1, 1, lights);
      expect(filtered.colours).toEqual(alone.colours);
      expect(filtered.left).toEqual(alone.left);
      expect(offSum(filtered.colours, filtered.lights)).toBeLessThan(1e-5);
    }
  });

  it('lose their part of the noise', () => {
    const [truth, other] = [light.map((value) => value * 0.7), plane(() => 0.2)];
    const noise = knownNoise(COUNT, 23).map((value) => value * SIGMA);
    const own = truth.map((value, i) => value + noise[i]!);
    const both = pictureOf(
      light.map((_, i) => own[i]! + other[i]!),
      {},
      0,
    );
    const { lights } = filterFrame(both, sigmas(), 1, 1, [[own], [other]]);
    expect(errorOf(lights[0]!, truth)).toBeLessThan(SIGMA / 4);
    expect(apart(lights[1]![0]!, other)).toBeLessThan(1e-6);
  });

  it('sum to it where single bright pixels were taken out, and where nothing is covered', () => {
    const spark = 30 * WIDTH + 70;
    const alpha = plane((x) => (x < 30 ? 0 : 1));
    const colours = picture.colours.map((values) => values.map((value, i) => (i === spark ? 90 : value)));
    const lights = lightsOf(colours, [0.5, 0.2]);
    const filtered = filterFrame(pictureOf(light, { colours, luminance: colours[0]!, alpha }), sigmas(), 1, 1, lights);
    expect(filtered.fireflies).toEqual([spark]);
    expect(offSum(filtered.colours, filtered.lights)).toBeLessThan(1e-4);
    expect(filtered.lights[0]![0]![10]).toBe(lights[0]![0]![10]);
    expect(Math.abs(filtered.lights[0]![0]![spark]!)).toBeLessThan(2);
  });

  it('need not all be there', () => {
    const lights = lightsOf(picture.colours, [0.5, 0.2]);
    const all = filterFrame(picture, sigmas(), 1, 1, lights);
    const some = filterFrame(picture, sigmas(), 1, 1, [lights[0]!, null, lights[2]!]);
    expect(some.lights).toEqual([all.lights[0], null, all.lights[2]]);
  });

  it('sum to it whatever they are', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -2, max: 2, noNaN: true }), { minLength: 1, maxLength: 6 }), fc.constantFrom(0.3, 1, 3), (shares, strength) => {
        const filtered = filterFrame(picture, sigmas(), strength, 1, lightsOf(picture.colours, shares));
        expect(offSum(filtered.colours, filtered.lights)).toBeLessThan(1e-4);
      }),
      { numRuns: 12 },
    );
  });
});

describe('lights of a frame that is steadied', () => {
  const size = { width: WIDTH, height: COUNT / WIDTH };
  const withLights = (frame: FrameToSteady, isWhole = true): FrameToSteady => {
    const lights = lightsOf(frame.colours, [0.5, 0.2]);
    return { ...frame, lights: isWhole ? lights : [lights[0]!, null, lights[2]!] };
  };
  const [own, before] = [withLights(passing(2)), withLights(passing(1))];
  const trail = trailBefore(own.motion!, size);

  it('sum to it, and change nothing of it', () => {
    const steadied = steadyFrame(own, [{ frame: before, trail }]);
    expect(steadied.colours).toEqual(steadyFrame(passing(2), [{ frame: passing(1), trail }]).colours);
    expect(offSum(steadied.colours, steadied.lights)).toBeLessThan(1e-5);
    expect(apart(steadied.lights[0]![0]!, own.lights[0]![0]!)).toBeGreaterThan(0);
  });

  it('are the same where the frame itself lacks another', () => {
    const some = steadyFrame(withLights(passing(2), false), [{ frame: before, trail }]);
    const whole = steadyFrame(own, [{ frame: before, trail }]);
    expect(some.lights).toEqual([whole.lights[0], null, whole.lights[2]]);
  });

  it('are taken from the frame itself where a neighbour lacks them', () => {
    const steadied = steadyFrame(own, [{ frame: withLights(passing(1), false), trail }]);
    const whole = steadyFrame(own, [{ frame: before, trail }]);
    expect(apart(steadied.lights[1]![0]!, own.lights[1]![0]!)).toBeLessThan(1e-6);
    expect([steadied.lights[0], steadied.lights[2]]).toEqual([whole.lights[0], whole.lights[2]]);
  });
});

describe('a light of another window', () => {
  const passOf = (width: number, height: number, left = 0) => {
    const planes = ['R', 'G', 'B'].map((channel) => ({
      channel,
      type: 'float' as const,
      data: new Float32Array(width * height).fill(0.5),
      offset: 0,
      stride: 1,
      width,
      height,
    }));
    const dataWindow = [left, 0, left + width - 1, height - 1] as const;
    return { frame: { header: { width, height, dataWindow, displayWindow: [0, 0, 19, 9] }, planes } as never, channels: null };
  };

  it('does not go along', () => {
    const whole = passOf(20, 10);
    const beside = { ...pictureOf(light), width: 20, height: 10 };
    expect(lightToDenoise(passOf(20, 10), beside, whole.frame)?.channels).toEqual(['R', 'G', 'B']);
    expect(lightToDenoise(passOf(20, 8), beside, whole.frame)).toBeNull();
    expect(lightToDenoise(passOf(20, 10, 3), beside, whole.frame)).toBeNull();
  });
});
