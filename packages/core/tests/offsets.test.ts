import { describe, expect, it } from 'vitest';
import { changedPixels, changeFits, edgesOf, findAssayTroubles, parseBrief, workOutOrder, type ChangeFits, type PassFigures } from '../src/index.ts';

const [WIDTH, HEIGHT, FRAMES] = [96, 64, 12];
const WINDOWS = { size: '96 x 64', display: '(0, 0) to (95, 63)', data: '(0, 0) to (95, 63)' };
/** Balls: where they are at first, how large, and how far they go in a frame. */
const BALLS = [
  { x: 20, y: 20, radius: 9, right: 1, down: 0.5 },
  { x: 60, y: 34, radius: 14, right: -0.8, down: 0.3 },
  { x: 74, y: 14, radius: 7, right: 0.6, down: 1 },
] as const;

type Name = 'albedo' | 'normal' | 'depth';
/** What each of the balls, and what lies behind them, is in a pass. */
const LOOKS: Record<Name | 'beauty', readonly number[]> = {
  albedo: [0.2, 0.5, 0.8, 0.1],
  normal: [0.1, 0.9, 0.4, 0.6],
  depth: [3, 5, 4, 20],
  beauty: [0.5, 0.1, 0.3, 0.05],
};

/** How much of each pixel each of the balls takes at some time, which two balls never share. */
const coverages = new Map<number, readonly Float32Array[]>();
function coveragesAt(time: number): readonly Float32Array[] {
  const known = coverages.get(time);
  if (known) return known;
  const made = BALLS.map(({ x, y, radius, right, down }) =>
    Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => {
      const distance = Math.hypot((i % WIDTH) - x - right * time, Math.floor(i / WIDTH) - y - down * time);
      return Math.min(1, Math.max(0, radius + 0.5 - distance));
    }),
  );
  coverages.set(time, made);
  return made;
}

/** A pass at some time. */
function shown(name: Name | 'beauty', time: number): Float32Array {
  const [behind, balls] = [LOOKS[name][3]!, coveragesAt(time)];
  return Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => balls.reduce((sum, cover, ball) => sum + cover[i]! * (LOOKS[name][ball]! - behind), behind));
}

/** Numbers spread evenly over -1..1. */
const chance = (seed: number) => () => ((seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647) * 2 - 1;

/** What is said of passes that show the frame so many further on. @param noise of the beauty, as a share @param pace how fast all goes */
function said(offsets: Partial<Record<Name, (i: number) => number>>, noise = 0.1, pace = 1): string[] {
  const names = Object.keys(offsets) as Name[];
  const edges = (plane: Float32Array) => edgesOf([plane], WIDTH, HEIGHT);
  const random = chance(3);
  const beauty = Array.from({ length: FRAMES }, (_, i) => edges(shown('beauty', i * pace).map((value) => value * (1 + noise * random()))));
  const passes = new Map(names.map((name) => [name, Array.from({ length: FRAMES }, (_, i) => edges(shown(name, (i + offsets[name]!(i)) * pace)))]));
  const figures = names.flatMap((pass, place) =>
    Array.from({ length: FRAMES }, (_, i): PassFigures => {
      const own = passes.get(pass)!;
      const isInside = i >= 2 && i + 1 < FRAMES;
      const fitsTo = (other: readonly Float32Array[]): ChangeFits | null =>
        isInside ? changeFits([own[i - 1]!, own[i]!], [other[i - 2]!, other[i - 1]!, other[i]!, other[i + 1]!]) : null;
      const besides = names.slice(place + 1).flatMap((other) => {
        const fits = fitsTo(passes.get(other)!);
        return fits ? [[other, fits] as const] : [];
      });
      return {
        ...figuresOf(pass, i),
        changes: fitsTo(beauty),
        besides: Object.fromEntries(besides),
        changed: i > 0 ? changedPixels([own[i - 1]!, own[i]!]) : 0,
      };
    }),
  );
  return saidOf(figures, names);
}

/** A frame of a pass of which nothing is known. */
const figuresOf = (pass: Name, i: number): PassFigures => ({
  ...{ pass, role: pass, frame: 1001 + i, file: `${pass}.${1001 + i}.exr`, changes: null, besides: {}, changed: 0, odd: null, unexplained: null },
  ...{ turned: null, standing: null, span: null, nothingMet: null, alphaGap: null, order: null, gap: null, mean: null },
  windows: { own: WINDOWS, beauty: WINDOWS },
});

function saidOf(figures: readonly PassFigures[], names: readonly Name[]): string[] {
  const ordered = ['beauty', ...names].map((name) => ({ name, role: name, pattern: `${name}.####.exr` }));
  const order = workOutOrder(parseBrief({ shot: 'orr_010', range: `1001-${1000 + FRAMES}`, passes: ordered }, 'brief'));
  return findAssayTroubles(order, [], figures).map(
    ({ code, pass, frames, message }) => `${code} ${pass} ${String(frames)} ${message.split(' ').slice(-3).join(' ')}`,
  );
}

const [own, behind, ahead] = [() => 0, () => -1, () => 1];

describe('passes of another frame', () => {
  it('are none where all are of their own', () => {
    expect(said({ albedo: own, normal: own, depth: own })).toEqual([]);
    expect(said({ albedo: own, normal: own, depth: own }, 1)).toEqual([]);
    expect(said({ normal: own, depth: own })).toEqual([]);
  });

  it('are told by the other passes', () => {
    expect(said({ albedo: own, normal: behind, depth: own })).toEqual(['pass-offset normal 1003-1011 a frame earlier.']);
    expect(said({ albedo: own, normal: own, depth: ahead })).toEqual(['pass-offset depth 1003-1011 a frame later.']);
  });

  it('are told beside a beauty that says nothing, where two others go together', () => {
    // Noise as large as the picture.
    const [finding, ...others] = said({ albedo: own, normal: behind, depth: own }, 1);
    expect(others).toEqual([]);
    expect(finding).toBe('pass-offset normal 1003-1011 a frame earlier.');
  });

  it('are those that are not with the beauty, also where they are more', () => {
    expect(said({ albedo: own, normal: behind, depth: behind }, 0.02, 1.7)).toEqual([
      'pass-offset normal 1003-1011 a frame earlier.',
      'pass-offset depth 1003-1011 a frame earlier.',
    ]);
    expect(said({ normal: behind, depth: own })).toEqual(['pass-offset normal 1003-1011 a frame earlier.']);
    expect(said({ normal: own, depth: behind })).toEqual(['pass-offset depth 1003-1011 a frame earlier.']);
  });

  it('are told one behind and one ahead', () => {
    expect(said({ albedo: own, normal: behind, depth: ahead })).toEqual([
      'pass-offset normal 1003-1011 a frame earlier.',
      'pass-offset depth 1003-1011 a frame later.',
    ]);
  });

  it('are told of a run', () => {
    const inRun = (i: number) => (i >= 4 && i < 9 ? -1 : 0);
    const findings = said({ albedo: own, normal: inRun, depth: own });
    expect(findings).toHaveLength(1);
    // Its first frame repeats the one before; the one behind it leaps.
    expect(findings[0]).toMatch(/^pass-offset normal 1006-1009 a frame earlier/);
  });

  it('are told beside the beauty alone', () => {
    expect(said({ depth: behind }, 0.02, 1.7)).toEqual(['pass-offset depth 1003-1011 a frame earlier.']);
    expect(said({ depth: own }, 0.02, 1.7)).toEqual([]);
  });

  it('are not told where one fits another frame of the beauty by chance, but goes with others that fit their own', () => {
    const frames = Array.from({ length: FRAMES }, (_, i) => i);
    const [sound, byChance]: ChangeFits[] = [
      [0.05, 0.3, 0.1],
      [0.02, 0.06, 0.2],
    ];
    const albedo = (besides: PassFigures['besides']) =>
      frames.map((i) => ({ ...figuresOf('albedo', i), changes: i > 1 && i < 8 ? byChance! : sound!, changed: 2000, besides }));
    const depth = frames.map((i) => ({ ...figuresOf('depth', i), changes: sound!, changed: 2000 }));
    expect(saidOf([...albedo({ depth: [0.3, 0.7, 0.3] }), ...depth], ['albedo', 'depth'])).toEqual([]);
    // By itself it would be.
    expect(saidOf(albedo({}), ['albedo'])).toEqual(['pass-offset albedo 1003-1008 a frame later.']);
  });
});
