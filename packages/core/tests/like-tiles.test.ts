import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { noiseAlongShot, type FrameFigures } from '../src/index.ts';

/** What is measured of one tile, as variances: what features and neighbours leave, how many times that the features alone do, and what there is. */
interface Tile {
  readonly noise: number;
  readonly gain?: number;
  readonly total?: number;
  readonly bySights?: number;
  readonly mean?: number;
  /** What is left of it where spikes are cut low, and high, as shares; and how well it is found again in a neighbour. */
  readonly cut?: readonly [low: number, high: number];
  readonly persistence?: number;
}

function figuresOf(tiles: readonly Tile[]): FrameFigures {
  const plane = (of: (tile: Tile) => number) => Float64Array.from(tiles, of);
  const byNeighbours = plane(({ noise }) => noise);
  const byFeatures = plane(({ noise, gain = 1 }) => noise * gain);
  const total = plane(({ noise, gain = 1, total = noise * gain }) => total);
  return {
    grid: { width: tiles.length * 16, height: 16, across: tiles.length, down: 1 },
    pixels: plane(() => 256),
    mean: plane(({ mean = 0.5 }) => mean),
    meanLuminance: 0.5,
    fireflies: new Int32Array(),
    byFeatures,
    byFeaturesCut: [0, 1].map((which) => plane(({ noise, gain = 1, cut = [1, 1] }) => noise * gain * cut[which]!)) as [Float64Array, Float64Array],
    byFeaturesOwnCut: [byFeatures, byFeatures],
    byNeighbours,
    byNeighboursCut: [byNeighbours, byNeighbours],
    persistence: plane(({ persistence = NaN }) => persistence),
    bySights: plane(({ noise, bySights = noise }) => bySights),
    total,
    known: [plane(() => 1)],
    held: [plane(() => 0)],
    still: [{ difference: plane(() => NaN), share: plane(() => 0) }],
    sharedRoughness: [NaN],
    roughness: 1,
    waver: 0,
    shared: { within: plane(() => 0), withinShared: plane(() => 0), share: plane(() => 0) },
    standing: null,
    unfollowed: null,
  };
}

/** Variances that are told of the tiles of a shot of three frames, all with the same figures, as shares of `noise`. */
function told(tiles: readonly Tile[], noise = 1e-4): number[] {
  const figures = figuresOf(tiles);
  const shot = [0, 1, 2].map((i) => ({ figures, neighbours: [i === 0 ? 1 : i - 1] }));
  return Array.from(noiseAlongShot(shot, true).frames[1]!.tiles, (sigma) => sigma ** 2 / noise);
}

const many = (count: number, tile: Tile): Tile[] => Array.from({ length: count }, () => tile);
const usual: Tile = { noise: 1e-4, total: 1.2e-4 };
/** A mirror's picture has leaked into it. */
const leaking: Tile = { noise: 3e-3, gain: 5, total: 0.1 };
/** The rim of a thing before a flat sky, which its own samples explain. */
const explained: Tile = { noise: 1e-6, total: 1e-2 };
const GIVEN_BACK = 1.01 ** 2;

describe('a tile that cannot be told', () => {
  it('is moved towards what the rest of the picture has where structure leaks', () => {
    const tiles = told([...many(200, usual), leaking]);
    for (const share of tiles.slice(0, 200)) expect(share).toBeCloseTo(GIVEN_BACK, 6);
    // Thirty times too much, of which the power 0.15 is kept.
    expect(tiles[200]).toBeCloseTo(30 ** 0.15 * GIVEN_BACK, 3);
  });

  it('is moved up where features have explained its noise, and never down', () => {
    const tiles = told([...many(200, usual), explained, { noise: 1e-3, total: 1 }]);
    expect(tiles[200]).toBeCloseTo(0.01 ** 0.5 * GIVEN_BACK, 2);
    expect(tiles[201]).toBeCloseTo(10 * GIVEN_BACK, 3);
  });

  it('stays as it is where too few tell, and of leaks where few do', () => {
    for (const share of [told([...many(15, usual), leaking]), told([...many(60, usual), leaking])].map((tiles) => tiles.at(-1)!))
      expect(share).toBeCloseTo(30 * GIVEN_BACK, 3);
    expect(told([...many(15, usual), explained]).at(-1)).toBeCloseTo(0.01 * GIVEN_BACK, 5);
    expect(told([...many(60, usual), explained]).at(-1)).toBeCloseTo(0.01 ** 0.5 * GIVEN_BACK, 2);
  });

  it('is as noisy as tiles of its brightness', () => {
    // Noise of a tenth of the light, in tiles of all brightnesses.
    const lit = Array.from({ length: 200 }, (_, i) => ({ mean: 0.1 + i / 100, noise: 1e-2 * (0.1 + i / 100) ** 2 })).map((tile) => ({ ...tile, total: 1e-2 }));
    const leak = (mean: number): Tile => ({ mean, noise: 1, gain: 5, total: 10 });
    const [dark, bright] = told([...lit, leak(0.2), leak(2)]).slice(200) as [number, number];
    // As a hundred times the variance, of which 0.85 is learned.
    expect(Math.log(bright / dark) / Math.log(100)).toBeCloseTo(0.85, 1);
  });

  it('is no noisier than the brightest that tell: a lamp has none of their noise', () => {
    const lit = Array.from({ length: 200 }, (_, i) => ({ mean: 0.1 + i / 100, noise: 1e-2 * (0.1 + i / 100) ** 2, total: 1e-2 }));
    const lamps = told([...lit, { mean: 2.09, noise: 5, gain: 5, total: 10 }, { mean: 50, noise: 5, gain: 5, total: 10 }]).slice(200);
    expect(lamps[1]! / lamps[0]!).toBeCloseTo(1, 2);
  });

  it('without noise has none, and a picture of none is left alone', () => {
    expect(told([...many(200, usual), { noise: 0, total: 1 }]).at(-1)).toBe(0);
    expect(told([...many(200, { noise: 0, total: 1 }), leaking]).at(-1)).toBeCloseTo(30 * GIVEN_BACK, 3);
  });

  it('is told alike in any light', () => {
    fc.assert(
      fc.property(fc.double({ min: 1e-3, max: 1e3, noNaN: true }), (scale) => {
        const tiles = [...many(120, usual), ...many(60, { noise: 3e-4, total: 9e-4, mean: 0.9 }), leaking, explained];
        const scaled = tiles.map(({ noise, total, gain, mean = 0.5 }) => ({
          noise: noise * scale ** 2,
          total: total! * scale ** 2,
          mean: mean * scale,
          ...(gain && { gain }),
        }));
        const [once, again] = [told(tiles), told(scaled, 1e-4 * scale ** 2)];
        again.forEach((share, tile) => expect(share / once[tile]!).toBeCloseTo(1, 6));
      }),
    );
  });
});

describe('spikes of a tile', () => {
  const spiky = { noise: 1e-3, total: 3e-3, cut: [0.1, 0.3] } as const;
  const left = (persistence?: number) => told([...many(200, usual), { ...spiky, ...(persistence !== undefined && { persistence }) }]).at(-1)! / 10 / GIVEN_BACK;

  it('are cut, where it is not known what they are', () => {
    expect(left()).toBeCloseTo(0.3, 3);
  });

  it('are mostly left where no neighbour has the like, and cut low where one does', () => {
    expect(left(0.3)).toBeCloseTo(0.3 ** 0.25, 3);
    expect(left(0.45)).toBeCloseTo(0.3 ** 0.25, 3);
    expect(left(0.6)).toBeCloseTo(0.1, 3);
    expect(left(0.9)).toBeCloseTo(0.1, 3);
  });

  it('are cut the more, the better they are found again', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true }), (a, b) => {
        expect(left(Math.max(a, b))).toBeLessThanOrEqual(left(Math.min(a, b)) + 1e-9);
      }),
      { numRuns: 20 },
    );
  });

  it('are cut in pictures of few tiles, whatever they are', () => {
    for (const persistence of [0.2, 0.9]) expect(told([...many(60, usual), { ...spiky, persistence }]).at(-1)! / 10 / GIVEN_BACK).toBeCloseTo(0.3, 3);
  });
});

describe('noise that features explain', () => {
  /** Neighbours alone leave half as much again. */
  const shared: Tile = { noise: 1e-4, bySights: 1.5e-4, total: 1.5e-4 };

  it('is given back where a tile has much of it for its structure', () => {
    // Less the fifth of its structure that the neighbours would leave anyway, and what fewer columns leave.
    for (const share of told(many(30, shared))) expect(share).toBeCloseTo(1.34 * GIVEN_BACK, 3);
  });

  it('is not looked for in tiles that are all structure: there neighbours leave structure', () => {
    const rim: Tile = { noise: 1e-4, bySights: 5e-3, total: 6e-3 };
    for (const share of told([...many(30, usual), ...many(5, rim)])) expect(share).toBeCloseTo(GIVEN_BACK, 6);
    // Nor do they change what is given back to others. (Of fewer than twenty tiles nothing else is learned.)
    const tiles = told([...many(12, shared), ...many(5, rim)]);
    expect(tiles[0]).toBeCloseTo(1.34 * GIVEN_BACK, 3);
    expect(tiles.at(-1)).toBeCloseTo(GIVEN_BACK, 6);
  });
});
