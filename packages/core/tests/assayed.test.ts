import { describe, expect, it } from 'vitest';
import { depthOrder, matteGap } from '../src/index.ts';
import { codes, found, shot } from './assayed-shot.ts';

describe('light along a shot', () => {
  const lit = (light: (i: number) => number) =>
    codes(
      shot(
        () => 0.02,
        (i) => ({ meanLuminance: light(i) * (1 + 0.003 * Math.sin(i * 7.3)), means: new Float64Array(8).fill(light(i)) }),
      ),
    );

  it.each<[string, (i: number) => number]>([
    ['that stays', () => 0.2],
    ['that is turned on from one frame to the next', (i) => (i < 20 ? 0.1 : 0.3)],
    ['that comes up slowly', (i) => 0.05 + i / 100],
    ['of nothing', () => 0],
    ['that goes round', (i) => 0.2 + 0.1 * Math.sin(i / 3)],
  ])('%s is sound', (_name, light) => {
    expect(lit(light)).toEqual([]);
  });

  it('that is as unsure as its noise is not judged', () => {
    const unsure = shot(
      () => 0.02,
      (i) => ({ meanLuminance: i % 2 === 0 ? 0.2 : 0.22, means: new Float64Array(8).fill(i % 2 === 0 ? 0.2 : 0.22), luminanceError: 0.01 }),
    );
    expect(codes(unsure)).toEqual([]);
  });

  it('that leaps in a part of the picture alone is no flicker', () => {
    // A highlight that passes, or a bucket that was lost.
    const partly = shot(
      () => 0.02,
      (i) => ({ meanLuminance: i === 22 ? 0.215 : 0.2, means: Float64Array.from({ length: 8 }, (_, tile) => (i === 22 && tile === 3 ? 0.32 : 0.2)) }),
    );
    expect(codes(partly)).toEqual([]);
  });

  it.each<[string, (i: number) => number, string]>([
    ['that leaps up for a frame', (i) => (i === 22 ? 0.215 : 0.2), 'flicker 1023'],
    ['that drops for a frame, and another', (i) => (i === 9 || i === 30 ? 0.18 : 0.2), 'flicker 1010,1031'],
    ['that pumps', (i) => (i % 2 === 0 ? 0.2 : 0.22), 'flicker 1002-1047'],
  ])('%s flickers', (_name, light, wanted) => {
    expect(lit(light)).toEqual([wanted]);
  });
});

describe('light of a part of the picture', () => {
  const [ACROSS, DOWN] = [10, 6];
  const grid = { width: ACROSS * 16, height: DOWN * 16, across: ACROSS, down: DOWN };
  const inLamp = (tile: number) => tile % ACROSS >= 6 && tile % ACROSS < 9 && tile >= 2 * ACROSS && tile < 5 * ACROSS;
  const lit = (light: (i: number, tile: number) => number, sigma: (i: number) => number = () => 0.01) =>
    shot(sigma, (i) => ({
      ...{ grid, means: Float64Array.from({ length: ACROSS * DOWN }, (_, tile) => light(i, tile)) },
      tiles: new Float64Array(ACROSS * DOWN).fill(sigma(i)),
    }));
  /** From 0 to 1, in no order. */
  const chance = (i: number) => (Math.abs(Math.sin(i * 78.233)) * 43758.5453) % 1;

  it('pumps, and is named with its place', () => {
    const [finding, ...others] = found(lit((i, tile) => (inLamp(tile) ? 0.2 + 0.03 * chance(i) : 0.2)));
    expect(others).toEqual([]);
    expect(finding).toMatchObject({ code: 'flicker', detail: 'brighter and darker in turn in 48 x 48 pixels at 96, 32 (right)' });
  });

  it('is no surer than the frames that are noisier than the others', () => {
    const isNoisy = (i: number) => i % 3 === 0;
    const some = lit(
      (i, tile) => (inLamp(tile) && isNoisy(i) ? 0.2 + 0.06 * chance(i) : 0.2),
      (i) => (isNoisy(i) ? 0.8 : 0.01),
    );
    expect(codes(some).filter((code) => code.startsWith('flicker'))).toEqual([]);
  });

  it('is less sure where a wide filter joins pixels', () => {
    const pumping = lit(
      (i, tile) => (inLamp(tile) ? 0.2 + 0.03 * chance(i) : 0.2),
      () => 0.06,
    );
    expect(codes(pumping)).toEqual(['flicker 1001-1048']);
    expect(codes(pumping.map((frame) => ({ ...frame, joinedPixels: 7 })))).toEqual([]);
  });

  it('does not pump for a frame that leaps all over', () => {
    const leaps = (i: number) => i === 6 || i === 20 || i === 34;
    // By itself the lamp goes to and fro, but little.
    const light = lit((i, tile) => (leaps(i) ? 0.1 : 0.2) * (inLamp(tile) ? 1 + 0.02 * (i % 2) : 1));
    expect(codes(light.map((frame, i) => ({ ...frame, meanLuminance: leaps(i) ? 0.1 : 0.2 })))).toEqual(['flicker 1007-1035x14']);
  });

  it.each<[string, (i: number, tile: number) => number, number]>([
    ['goes round', (i, tile) => (inLamp(tile) ? 0.2 + 0.1 * Math.sin(i / 3) : 0.2), 0.01],
    ['flickers by itself in each of its tiles, as what passes through', (i, tile) => (inLamp(tile) ? 0.2 + 0.03 * chance(i * 61 + tile) : 0.2), 0.01],
    ['is as unsure as its noise', (i, tile) => (inLamp(tile) ? 0.2 + 0.03 * chance(i) : 0.2), 0.4],
    ['is too small to be a lamp', (i, tile) => (tile === 23 ? 0.2 + 0.03 * chance(i) : 0.2), 0.01],
  ])('that %s is sound', (_name, light, sigma) => {
    expect(codes(lit(light, () => sigma))).toEqual([]);
  });
});

describe('other figures of a frame', () => {
  it('tell bursts of fireflies', () => {
    expect(
      codes(
        shot(
          () => 0.02,
          (i) => ({ fireflies: i === 7 ? 40 : i % 5 }),
        ),
      ),
    ).toEqual(['fireflies 1008']);
  });

  it('tell what is above the target, with samples and hours for it', () => {
    const noisy = shot(
      (i) => (i < 10 ? 0.04 : 0.019),
      () => ({ tiles: Float64Array.of(0.1, 0.01, 0.01, 0.01, 0.01, 0.01, 0.01, 0.01) }),
    );
    const [finding] = found(noisy, { sampling: { noise: 0.021, samples: 64 } });
    expect(finding).toMatchObject({ code: 'noisy', severity: 'warning' });
    expect(String(finding!.frames)).toBe('1001-1010');
    // 0.0408 over 0.021, squared, are 3.8 times as many samples; 90 seconds for each of 48 frames become 4.5 hours.
    expect(finding!.message).toMatch(
      /where 0\.021 was ordered; by the square root law 2[345]\d samples would do: on one machine 4\.\d hours for the whole shot, /,
    );
    expect(finding!.message).toMatch(/(5\d minutes|[\d.]+ hours) for these frames, or \d+(\.\d+)? minutes for a crop of 16 x 16 pixels at 0, 0\.$/);
  });

  it('tell it by the fit of the test frames, where there are some', () => {
    const noisy = shot((i) => (i < 10 ? 0.04 : 0.019));
    // What more samples do not take away is 0.02: the room below 0.021 is small, and below 0.019 there is none.
    const tests = [4, 16, 64].map((samples) => ({ samples, noise: Math.sqrt(0.3 ** 2 / samples + 0.02 ** 2), seconds: 10 + samples }));
    expect(found(noisy, { sampling: { noise: 0.021, samples: 64, tests } })[0]!.message).toMatch(/by the fit of the test frames [12],\d{3} samples would do/);
    expect(found(noisy, { sampling: { noise: 0.019, samples: 64, tests } })[0]!.message).toContain('by the fit of the test frames no number of samples');
    // Noise of edges alone falls as n^0.75: by so much less are enough, 2.4 times instead of 3.8.
    const edges = [4, 16, 64].map((samples) => ({ samples, noise: samples ** -0.75, seconds: null }));
    expect(found(noisy, { sampling: { noise: 0.021, samples: 64, tests: edges } })[0]!.message).toMatch(/by the fit of the test frames 15\d samples would do/);
    // Of half edges and half else, as of where the frame stands: between the two.
    const both = [4, 16, 64].map((samples) => ({ samples, noise: Math.sqrt(1 / samples + 8 / samples ** 1.5), seconds: null }));
    expect(found(noisy, { sampling: { noise: 0.021, samples: 64, tests: both } })[0]!.message).toMatch(
      /by the fit of the test frames 1[89]\d samples would do/,
    );
  });

  it('tell gradients in steps', () => {
    const frames = shot(
      () => 0.02,
      (i) => ({ banded: i === 4 ? 0.3 : i === 5 ? 0.01 : 0 }),
    );
    expect(codes(frames)).toEqual(['banding 1005']);
  });

  it('are silent where the brief says so', () => {
    expect(
      codes(
        shot((i) => (i === 30 ? 0.04 : 0.02)),
        { checks: { off: ['noise-shift'] } },
      ),
    ).toEqual([]);
  });
});

describe('the order of depths', () => {
  const [WIDTH, HEIGHT] = [32, 8];
  /** A near post before a far wall; the post goes two pixels to the right a frame. */
  const frameAt = (left: number, near: number, far: number) => {
    const isPost = (i: number) => i % WIDTH >= left && i % WIDTH < left + 8;
    const of = (value: (i: number) => number) => Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => value(i));
    const motion = [of((i) => (isPost(i) ? -6 : 0)), of(() => 0)] as const;
    return {
      width: WIDTH,
      height: HEIGHT,
      luminance: of(() => 0.5),
      alpha: null,
      albedo: null,
      normal: null,
      depth: of((i) => (isPost(i) ? near : far)),
      motion,
    };
  };

  it('is seen by what was hidden a frame earlier', () => {
    const order = depthOrder(frameAt(14, 2, 10), frameAt(8, 2, 10))!;
    expect(order.byNearer).toBeGreaterThan(15);
    expect(order.byFarther).toBe(0);
    const turned = depthOrder(frameAt(14, 10, 2), frameAt(8, 10, 2))!;
    expect([turned.byNearer, turned.byFarther]).toEqual([order.byFarther, order.byNearer]);
  });

  it('is not known without vectors or distances', () => {
    const frame = frameAt(8, 2, 10);
    expect(depthOrder({ ...frame, motion: null }, frame)).toBeNull();
    expect(depthOrder(frame, { ...frame, depth: null })).toBeNull();
  });
});

it('the share of pixels in which mattes miss the alpha', () => {
  const of = (...values: number[]) => Float32Array.from(values);
  expect(matteGap([of(1, 0.5, 0, 0), of(0, 0.5, 0, 0.4)], of(1, 1, 0, 0.4))).toBe(0);
  expect(matteGap([of(1, 0.5, 0, 0), of(0, 0.4, NaN, 0.4)], of(1, 1, 0, 0.4))).toBe(0.5);
  expect(matteGap([of(1, 1, 0, 1)], null)).toBe(0.25);
  expect(matteGap([], null)).toBeNull();
});
