import { describe, expect, it } from 'vitest';
import {
  alphaGap,
  depthSpan,
  findAssayTroubles,
  nothingMet,
  parseBrief,
  standingShare,
  unexplainedBy,
  workOutOrder,
  type NoiseBuffers,
  type PassFigures,
  type PassRole,
} from '../src/index.ts';

const [WIDTH, HEIGHT] = [32, 16];
const of = (value: (x: number, y: number) => number) => Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => value(i % WIDTH, Math.floor(i / WIDTH)));
const all = (value: number) => of(() => value);
const facing: NoiseBuffers['normal'] = [all(0), all(0), all(1)];
const frameOf = (more: Partial<NoiseBuffers>): NoiseBuffers => ({
  ...{ width: WIDTH, height: HEIGHT, luminance: all(0.5), alpha: null },
  ...{ albedo: null, normal: null, depth: null, motion: null },
  ...more,
});

describe('a depth', () => {
  it('reaches from the near things to the far ones, without what no alpha covers and where nothing is met', () => {
    const depth = of((x) => (x < 2 ? 1e10 : x));
    expect(depthSpan(frameOf({ depth }))).toEqual({ near: 2, far: 31, isFlat: false });
    expect(depthSpan(frameOf({ depth, alpha: of((x) => (x < 10 ? 1 : 0.5)) }))).toEqual({ near: 2, far: 9, isFlat: false });
    expect(depthSpan(frameOf({ depth: all(1e10) }))).toBeNull();
    expect(depthSpan(frameOf({}))).toBeNull();
  });

  it('of a wall is one distance, and of what turns is not', () => {
    const turning: NoiseBuffers['normal'] = [of((x) => Math.sin(x / 10)), all(0), of((x) => Math.cos(x / 10))];
    expect(depthSpan(frameOf({ depth: all(3), normal: facing }))).toEqual({ near: 3, far: 3, isFlat: false });
    expect(depthSpan(frameOf({ depth: all(3), normal: turning }))!.isFlat).toBe(true);
    expect(depthSpan(frameOf({ depth: all(3) }))!.isFlat).toBe(false);
  });

  it('lacks where mattes or normals show something', () => {
    const depth = of((x) => (x < 8 ? Infinity : 3));
    const sky: NoiseBuffers['normal'] = [all(0), all(0), of((x) => (x < 4 ? 0 : 1))];
    expect(nothingMet(frameOf({ depth, normal: sky }), [])).toBeCloseTo(4 / 28);
    // Mattes know better what is there.
    expect(nothingMet(frameOf({ depth, normal: sky }), [of((x) => (x < 8 ? 0 : 0.5)), of((x) => (x < 8 ? 0.2 : 0.5))])).toBe(0);
    expect(nothingMet(frameOf({ depth }), [])).toBeNull();
    expect(nothingMet(frameOf({ normal: facing }), [])).toBeNull();
  });
});

describe('an alpha', () => {
  const alpha = of((x) => (x < 16 ? 1 : 0));
  it('is held against that of the beauty', () => {
    const beauty = frameOf({ alpha });
    expect(alphaGap(alpha.slice(), beauty)).toBe(0);
    expect(
      alphaGap(
        of((x) => (x < 12 ? 1 : 0)),
        beauty,
      ),
    ).toBeCloseTo(4 / 32);
  });
  it('that is one value all over, or stands beside none, says nothing', () => {
    expect(alphaGap(all(1), frameOf({ alpha }))).toBeNull();
    expect(alphaGap(alpha, frameOf({}))).toBeNull();
  });
});

describe('vectors', () => {
  // A texture that goes two pixels to the left a frame, and what says so.
  const textureAt = (shift: number) => of((x, y) => 0.5 + 0.4 * Math.sin((x + shift) * 0.9) * Math.cos(y * 0.7));
  const motion = [all(2), all(0)] as const;
  const moving = (shift: number) => frameOf({ albedo: textureAt(shift), normal: facing, motion });
  it('lead along what moves, and nowhere where all stands', () => {
    expect(standingShare(moving(2), moving(0))).toBe(0);
    expect(standingShare(moving(0), moving(0))).toBe(1);
  });
  it('are followed between pixels', () => {
    const slow = (shift: number) => frameOf({ albedo: textureAt(shift), motion: [all(0.6), all(0)] });
    // The sixth part of the step is what mixing pixels leaves of such a texture.
    expect(unexplainedBy(slow(0.6), slow(0))!).toBeLessThan(0.25);
    expect(unexplainedBy(slow(0.6), slow(0), -1)!).toBeGreaterThan(1.7);
    expect(unexplainedBy(slow(0), slow(0.6))!).toBeGreaterThan(1.7);
  });
  it('say nothing of what turns without a texture, nor without a surface that tells rims', () => {
    expect(standingShare(frameOf({ albedo: all(0.5), normal: facing, motion }), frameOf({ albedo: all(0.5), normal: facing, motion }))).toBeNull();
    expect(standingShare({ ...moving(0), normal: null }, moving(0))).toBeNull();
    expect(standingShare(moving(0), { ...moving(0), width: HEIGHT, height: WIDTH })).toBeNull();
  });
});

describe('what is said of passes beside the beauty', () => {
  const FRAMES = 12;
  const WINDOWS = { size: '64 x 40', display: '(0, 0) to (63, 39)', data: '(0, 0) to (63, 39)' };
  const passOf = (pass: string, role: PassRole, more: (i: number) => Partial<PassFigures>) =>
    Array.from({ length: FRAMES }, (_, i): PassFigures => ({
      ...{ pass, role, frame: 1001 + i, file: `${pass}.${1001 + i}.exr`, odd: null, changes: null, besides: {}, changed: 0 },
      ...{ unexplained: null, turned: null, standing: null, span: null, nothingMet: null, alphaGap: null, order: null, gap: null, mean: null },
      windows: { own: WINDOWS, beauty: WINDOWS },
      ...more(i),
    }));
  const said = (role: PassRole, more: (i: number) => Partial<PassFigures>, others: readonly PassFigures[] = []): string[] => {
    const passes = [...passOf('beside', role, more), ...others];
    const order = [
      { name: 'beauty', role: 'beauty', pattern: 'beauty.####.exr' },
      { name: 'beside', role, pattern: 'beside.####.exr' },
    ];
    const brief = parseBrief({ shot: 'orr_010', range: `1001-${1000 + FRAMES}`, passes: order }, 'brief');
    return findAssayTroubles(workOutOrder(brief), [], passes).map(({ code, frames, message }) => `${code} ${String(frames)}: ${message}`);
  };
  const span = (times: number) => ({ span: { near: 2 * times, far: 30 * times, isFlat: false } });

  it('names distances that are in another unit', () => {
    expect(said('depth', (i) => span(i === 4 ? 100 : 1 + i / 50))).toEqual([
      expect.stringMatching(/^depth-implausible 1005: .* many times those of the frames around/),
    ]);
    expect(said('depth', (i) => span(i === FRAMES - 1 ? 0.01 : 1))).toEqual([expect.stringMatching(/^depth-implausible 1012: /)]);
    // A cut goes on as it begins; a thing that comes close does not move what is far.
    expect(said('depth', (i) => span(i < 5 ? 1 : 20))).toEqual([]);
    expect(said('depth', (i) => ({ span: { near: i === 6 ? 0.1 : 2, far: 30, isFlat: false } }))).toEqual([]);
    // Nor does what passes before all of them.
    expect(said('depth', (i) => ({ span: i === 6 ? { near: 0.5, far: 0.6, isFlat: false } : { near: 2, far: 30, isFlat: false } }))).toEqual([]);
  });

  it('names a depth that is one distance, or none where something is', () => {
    expect(said('depth', () => ({ span: { near: 1, far: 1, isFlat: true } }))).toEqual([
      expect.stringMatching(/^depth-implausible 1001-1012: .* one distance all over/),
    ]);
    expect(said('depth', (i) => ({ nothingMet: i === 3 ? 0.1 : 0.01 }))).toEqual([expect.stringMatching(/^depth-implausible 1004: .* nothing is there/)]);
    expect(said('depth', (i) => ({ nothingMet: 0.01 + i / 1000 }))).toEqual([]);
  });

  it('names alphas of another picture', () => {
    expect(said('normal', (i) => ({ alphaGap: i === 7 ? 0.05 : 0.001 }))).toEqual([expect.stringMatching(/^alpha-mismatch 1008: /)]);
    expect(said('light', () => ({ alphaGap: 0.05 }))).toEqual([expect.stringMatching(/^alpha-mismatch 1001-1012: /)]);
    expect(said('normal', () => ({ alphaGap: 0.05 }))).toEqual([]);
  });

  it('names windows of another picture', () => {
    const own = (change: Partial<PassFigures['windows']['own']>) => ({ windows: { own: { ...WINDOWS, ...change }, beauty: WINDOWS } });
    const half = /^window-mismatch 1001-1012: 12 frames with the size 32 x 20 where the beauty has 64 x 40\.$/;
    expect(said('normal', () => own({ size: '32 x 20', display: null, data: null }))).toEqual([expect.stringMatching(half)]);
    expect(said('light', () => own({ display: '(0, 0) to (31, 39)' }))).toEqual([expect.stringMatching(/^window-mismatch 1001-1012: .* display window/)]);
    expect(said('normal', () => own({ data: '(0, 0) to (31, 39)' }))).toEqual([expect.stringMatching(/^window-mismatch 1001-1012: .* data window/)]);
    // A light may end sooner, and windows that are cut to what is seen are each their own; a lone one is told by the count.
    expect(said('light', () => own({ data: '(0, 0) to (31, 39)' }))).toEqual([]);
    expect(said('normal', (i) => own({ data: `(${i}, 0) to (31, 39)` }))).toEqual([]);
    expect(said('normal', (i) => (i === 3 ? own({ size: '32 x 20' }) : own({})))).toEqual([]);
  });

  it('names vectors of what stands, but not of a frozen frame', () => {
    expect(said('motion', (i) => ({ standing: i === 5 ? 0.5 : 0 }))).toEqual([expect.stringMatching(/^vector-implausible 1006: .* which stand still/)]);
    expect(said('motion', () => ({ standing: 1 }))).toEqual([expect.stringMatching(/^vector-implausible 1001-1012: /)]);
    expect(said('motion', (i) => ({ standing: i === 5 ? 1 : 0 }))).toEqual([]);
  });

  it('names vectors that lead back, but not where all do', () => {
    const leads = (isBack: boolean) => (isBack ? { unexplained: 2.1, turned: 1.1 } : { unexplained: 1.1, turned: 2.1 });
    expect(said('motion', (i) => leads(i === 4))).toEqual([expect.stringMatching(/^vector-implausible 1005: /)]);
    expect(said('motion', () => leads(false))).toEqual([]);
    expect(said('motion', () => leads(true))).toEqual([]);
    // Normals that repeat are not of that frame; they are held against the others, and of a still surface they always do.
    const normals = (repeats: (i: number) => boolean) => passOf('normal', 'normal', (i) => ({ changed: repeats(i) ? 0 : 500 }));
    expect(
      said(
        'motion',
        (i) => leads(i === 4),
        normals((i) => i === 4),
      ),
    ).toEqual([]);
    expect(
      said(
        'motion',
        (i) => leads(i === 4),
        normals(() => true),
      ),
    ).toHaveLength(1);
    // What stands but for balls that turn is explained neither way.
    expect(said('motion', (i) => ({ unexplained: i === 4 ? 1.3 : 0.9, turned: 1.4 }))).toEqual([]);
  });
});
