import { describe, expect, it } from 'vitest';
import { depthOrder, findAssayTroubles, matteGap, parseBrief, workOutOrder, type AssayedFrame } from '../src/index.ts';

const FRAMES = 48;
/** A little noise of the figures themselves, the same in every run. */
const jitter = (i: number) => 1 + 0.03 * Math.sin(i * 12.9898) * Math.cos(i * 4.1);

function shot(noiseOf: (i: number) => number, more: (i: number) => Partial<AssayedFrame> = () => ({})): AssayedFrame[] {
  return Array.from({ length: FRAMES }, (_, i): AssayedFrame => ({
    pass: 'beauty',
    frame: 1001 + i,
    file: `beauty.${1001 + i}.exr`,
    noise: noiseOf(i) * jitter(i),
    relativeNoise: 0.1,
    temporalNoise: null,
    tiles: new Float64Array(0),
    by: 'features',
    meanLuminance: 0.2,
    luminanceError: 0.0002,
    fireflies: 3,
    fireflyPlaces: new Int32Array(0),
    sum: null,
    host: i % 2 === 0 ? 'reef' : 'clove',
    samples: 64,
    seconds: 90,
    bytes: 1_000_000,
    grid: { width: 64, height: 32, across: 4, down: 2 },
    covered: 1,
    banded: null,
    means: new Float64Array(8).fill(0.2),
    heldSeeds: false,
    wideFilter: false,
    joinedPixels: 1,
    ...more(i),
  }));
}

const order = (brief: object = {}) =>
  workOutOrder(
    parseBrief({ shot: 'orr_010', range: '1001-1048', passes: [{ name: 'beauty', role: 'beauty', pattern: 'beauty.####.exr' }], ...brief }, 'brief'),
  );
const found = (frames: AssayedFrame[], brief: object = {}) => findAssayTroubles(order(brief), frames, []);
const codes = (frames: AssayedFrame[], brief: object = {}) => found(frames, brief).map(({ code, frames: at }) => `${code} ${String(at)}`);

describe('noise along a shot', () => {
  it.each<[string, (i: number) => number]>([
    ['as it is', () => 0.02],
    ['that drifts with what is seen', (i) => 0.02 * (1 + i / 30)],
    ['that comes and goes slowly', (i) => 0.02 * (1.5 + Math.sin(i / 7))],
    ['of nothing', () => 0],
  ])('%s is sound', (_name, noiseOf) => {
    expect(codes(shot(noiseOf))).toEqual([]);
  });

  it.each<[number, readonly string[]]>([
    [5, []],
    [200, ['noise-shift 1021-1026']],
  ])('that %i tiles hold has a step of a third by chance, or by what was rendered', (tiles, told) => {
    const noisier = (i: number) => (i >= 20 && i < 26 ? 0.028 : 0.02);
    expect(codes(shot(noisier, (i) => ({ tiles: new Float64Array(tiles).fill(noisier(i)) })))).toEqual(told);
    // Where the files say that it has other samples it is known to be none.
    const samples = (i: number) => (i >= 20 && i < 26 ? 28 : 64);
    expect(codes(shot(noisier, (i) => ({ tiles: new Float64Array(tiles).fill(noisier(i)), samples: samples(i) })))).toContain('noise-shift 1021-1026');
  });

  it.each<[string, (i: number) => number, string]>([
    ['a noisier run', (i) => (i >= 20 && i < 26 ? 0.03 : 0.02), 'noise-shift 1021-1026'],
    ['a cleaner frame', (i) => (i === 30 ? 0.014 : 0.02), 'noise-shift 1031'],
    ['a noisier end', (i) => (i >= 40 ? 0.028 : 0.02), 'noise-shift 1041-1048'],
    ['a noisier beginning all alike', (i) => (i < 4 ? 0.03 : 0.02), 'noise-shift 1001-1004'],
    ['a start that settles', (i) => 0.02 * (1 + 0.8 * 0.5 ** i), 'unsettled-start 1001-1004'],
  ])('tells %s', (_name, noiseOf, wanted) => {
    expect(codes(shot(noiseOf))).toEqual([wanted]);
  });

  it('tells a start that settles from noise that goes down', () => {
    const short = (noiseOf: (i: number) => number) => codes(shot(noiseOf).slice(0, 12));
    for (const left of [0.4, 0.5, 0.6]) expect(short((i) => 0.02 * (1 + left ** i))[0]).toMatch(/^unsettled-start 1001-100[23456]$/);
    expect(short((i) => 0.02 * Math.SQRT2 ** Math.max(0, 3 - i))).toEqual(['unsettled-start 1001-1003']);
    for (const slowly of [0.8, 0.9, 0.95]) expect(short((i) => 0.02 * (1 + slowly ** i))).toEqual([]);
    // Of a view that brightens, seen through a wide filter.
    const seen = [417, 367, 324, 301, 250, 237, 205, 198, 229, 214, 245, 282];
    expect(short((i) => seen[i]! / 1e4)).toEqual([]);
  });

  it('names what the files say of the run', () => {
    const half = shot(
      (i) => (i >= 20 && i < 26 ? 0.0283 : 0.02),
      (i) => (i >= 20 && i < 26 ? { samples: 32 } : {}),
    );
    expect(found(half)[0]!.message).toMatch(/^6 frames are 1\.4 times as noisy as the frames around, with 32 samples\.$/);
    const one = shot(
      (i) => (i >= 20 && i < 26 ? 0.08 : 0.02),
      (i) => (i >= 20 && i < 26 ? { samples: 1 } : {}),
    );
    expect(found(one)[0]!.message).toMatch(/, with 1 sample\.$/);
    const machine = shot(
      (i) => (i >= 20 && i < 26 ? 0.0283 : 0.02),
      (i) => (i >= 20 && i < 26 ? { host: 'bowline' } : {}),
    );
    expect(found(machine)[0]!.message).toContain(', all of them from bowline.');
  });

  it('believes the files where noise leaps by itself, but not against it', () => {
    // From frame to frame by up to a tenth either way, as with mirrors in a small picture.
    const leap = (i: number) => 0.02 * (1 + 0.1 * Math.sin(i * i * 7.3));
    const isRun = (i: number) => i >= 20 && i < 26;
    expect(codes(shot(leap))).toEqual([]);
    expect(codes(shot((i) => leap(i) * (isRun(i) ? 1.45 : 1)))).toEqual([]);
    expect(
      found(
        shot(
          (i) => leap(i) * (isRun(i) ? 1.45 : 1),
          (i) => (isRun(i) ? { samples: 32 } : {}),
        ),
      ).map(({ code }) => code),
    ).toEqual(['noise-shift']);
    // More samples where there is more noise: chosen by what is there.
    expect(
      codes(
        shot(
          (i) => leap(i) * (isRun(i) ? 1.45 : 1),
          (i) => (isRun(i) ? { samples: 128 } : {}),
        ),
      ),
    ).toEqual([]);
    // Samples that change in every frame, and noise that does not follow them.
    expect(codes(shot(leap, (i) => ({ samples: 64 + ((i * 37) % 11) })))).toEqual([]);
  });

  it('believes them of a light as well, however its noise leaps, where the beauty was told of', () => {
    const isRun = (i: number) => i >= 20 && i < 26;
    const samples = (i: number) => (isRun(i) ? { samples: 32 } : {});
    const light = shot(
      (i) => 0.02 * (1 + 0.25 * Math.sin(i * i * 7.3)) * (isRun(i) ? 1.8 : 1),
      (i) => ({ pass: 'diffuse', ...samples(i) }),
    );
    const passes = ['beauty', 'diffuse'].map((name) => ({ name, role: name === 'beauty' ? name : 'light', pattern: `${name}.####.exr` }));
    const of = (beauty: AssayedFrame[]) =>
      found([...beauty, ...light], { passes }).flatMap(({ code, pass, frames }) => (pass === 'diffuse' ? [`${code} ${String(frames)}`] : []));
    expect(of(shot((i) => (isRun(i) ? 0.0283 : 0.02), samples))).toEqual(['noise-shift 1021-1026']);
    // The beauty is as it always is: then a light whose noise leaps so is as well.
    expect(of(shot(() => 0.02))).toEqual([]);
  });
});

it('a frame that covers more of the picture than those beside it is not held against their noise', () => {
  const frames = (covered: number) =>
    shot(
      (i) => (i === 30 ? 0.014 : 0.02),
      (i) => ({ covered: i === 30 ? covered : 0.5 }),
    );
  expect(codes(frames(0.5))).toEqual(['noise-shift 1031']);
  expect(codes(frames(1))).toEqual([]);
});

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
