import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  ALL_PARTS,
  firstPartOutside,
  leftToWatch,
  parseBrief,
  PARTS_ACROSS,
  partsWithin,
  passesToWatch,
  sightSchema,
  wayOfSeeing,
  workOutEyes,
  workOutGates,
  workOutOrder,
  type PassSight,
  type Showing,
} from '../src/index.ts';

const order = workOutOrder(
  parseBrief({
    shot: 'orr_010',
    range: '1001-1010',
    passes: [
      { name: 'depth', role: 'depth', pattern: 'depth/orr.####.exr' },
      { name: 'beauty', role: 'beauty', pattern: 'beauty/orr.####.exr' },
      { name: 'sky', role: 'light', pattern: 'beauty/orr.####.exr' },
    ],
  }),
);
const content = (frame: number, version = 0) => (frame * 16 + version).toString(16).padStart(16, '0');
/** All files but the last frame's. */
const frames = Array.from({ length: 9 }, (_, i) => 1001 + i);
const contents = [{ pass: 'beauty', frames, contents: frames.map((frame) => content(frame)) }];
const seen = (frame: number, change: Partial<PassSight> = {}): PassSight => ({
  pass: 'beauty',
  frame,
  content: content(frame),
  way: 'full',
  parts: ALL_PARTS,
  ...change,
});
const beauty = (sights: readonly PassSight[], files = contents) => workOutEyes(order, files, sights).find(({ pass }) => pass === 'beauty')!;
const gate = (sights: readonly PassSight[]) => workOutGates([], () => false, new Set(), workOutEyes(order, contents, sights)).at(-1)!;

describe('what has been watched', () => {
  it('is the beauty where the brief does not say, the first pass where there is none, and what the brief says', () => {
    expect([...passesToWatch(order)]).toEqual(['beauty']);
    const passes = order.brief.passes.map(({ name, pattern }) => ({ name, pattern }));
    expect([...passesToWatch(workOutOrder(parseBrief({ shot: 'orr', range: '1-2', passes })))]).toEqual(['depth']);
    const said = order.brief.passes.map((pass) => ({ ...pass, watch: pass.name !== 'beauty' }));
    expect([...passesToWatch(workOutOrder(parseBrief({ ...order.brief, passes: said })))]).toEqual(['depth', 'sky']);
  });

  it('counts a frame once, as the most that was seen of it; one without a file nowhere', () => {
    const eyes = beauty([
      seen(1001),
      seen(1001, { way: 'stepped' }),
      seen(1002, { way: 'fitted' }),
      seen(1002, { way: 'stepped' }),
      seen(1003, { way: 'stepped' }),
      seen(1004, { parts: 1 }),
      seen(1010),
    ]);
    expect([eyes.watched, eyes.partly, eyes.fitted, eyes.stepped, eyes.unseen].map(String)).toEqual(['1001', '1004', '1002', '1003', '1005-1009']);
    expect(String(leftToWatch(eyes))).toBe('1002-1009');
  });

  it('always has every file in just one place', () => {
    const sight = fc.record({
      pass: fc.constant('beauty'),
      frame: fc.integer({ min: 1001, max: 1010 }),
      content: fc.integer({ min: 1001, max: 1010 }).map((frame) => content(frame)),
      way: fc.constantFrom('full' as const, 'fitted' as const, 'stepped' as const),
      parts: fc.integer({ min: 0, max: ALL_PARTS }),
    });
    fc.assert(
      fc.property(fc.array(sight, { maxLength: 40 }), (sights) => {
        const { watched, partly, fitted, stepped, unseen } = beauty(sights);
        const all = [watched, partly, fitted, stepped, unseen].flatMap((set) => [...set]);
        expect(all.sort()).toEqual(frames);
      }),
    );
  });

  it('is unseen again when its file is replaced, and only that one; and seen when the old one is back', () => {
    const sights = frames.map((frame) => seen(frame));
    const replaced = [{ ...contents[0]!, contents: frames.map((frame) => content(frame, frame === 1005 ? 1 : 0)) }];
    expect(String(leftToWatch(beauty(sights, replaced)))).toBe('1005');
    expect(leftToWatch(beauty([...sights, seen(1005, { content: content(1005, 1) })], replaced)).isEmpty).toBe(true);
    expect(leftToWatch(beauty(sights)).isEmpty).toBe(true);
  });

  it('is told of a layer by the files that it lives in, and of passes that nobody asked for once somebody looked', () => {
    expect(workOutEyes(order, contents, []).map(({ pass }) => pass)).toEqual(['beauty']);
    const eyes = workOutEyes(order, contents, [seen(1003, { pass: 'sky' })]);
    expect(eyes.map(({ pass, wanted, watched }) => [pass, wanted, String(watched)])).toEqual([
      ['beauty', true, ''],
      ['sky', false, '1003'],
    ]);
  });

  it('comes together from parts, whoever saw them', () => {
    const [left, right] = [partsWithin([0, 0, 0.5, 1]), partsWithin([0.5, 0, 1, 1])];
    expect([left | right, left & right]).toEqual([ALL_PARTS, 0]);
    expect(beauty([seen(1001, { parts: left })]).watched.isEmpty).toBe(true);
    expect(String(beauty([seen(1001, { parts: left }), seen(1001, { parts: right })]).watched)).toBe('1001');
    expect(beauty(frames.map((frame) => seen(frame, { parts: left }))).partsDone).toBe(left);
    expect(firstPartOutside(left)).toEqual([3 / PARTS_ACROSS, 0]);
    expect(firstPartOutside(ALL_PARTS)).toBeNull();
  });

  it('takes no part that is cut off', () => {
    expect(partsWithin([0, 0, 1, 1])).toBe(ALL_PARTS);
    expect(partsWithin([-3, -2, 4, 5])).toBe(ALL_PARTS);
    expect(partsWithin([0.01, 0, 1, 1])).toBe(ALL_PARTS & ~partsWithin([0, 0, 1 / PARTS_ACROSS, 1]));
    expect(partsWithin([0.1, 0.1, 0.2, 0.2])).toBe(0);
  });
});

describe('the gate of the eyes', () => {
  it('opens with the first frame that is watched and closes with the last', () => {
    expect(gate([])).toMatchObject({ name: 'eyes', state: 'unmeasured', unwatched: 9 });
    expect(gate([seen(1001, { way: 'fitted' }), seen(1002, { way: 'stepped' })])).toMatchObject({ state: 'unmeasured', unwatched: 9 });
    expect(gate([seen(1001)])).toMatchObject({ state: 'open', unwatched: 8 });
    expect(gate(frames.map((frame) => seen(frame)))).toMatchObject({ state: 'closed', unwatched: 0 });
  });

  it('stays shut where there is no frame to watch, and closes where the brief wants none watched', () => {
    expect(workOutGates([], () => false, new Set(), workOutEyes(order, [], [])).at(-1)!.state).toBe('unmeasured');
    const none = workOutOrder(parseBrief({ ...order.brief, passes: order.brief.passes.map((pass) => ({ ...pass, watch: false })) }));
    expect(workOutGates([], () => false, new Set(), workOutEyes(none, contents, [])).at(-1)!.state).toBe('closed');
  });

  it('can be signed for, and says closed rather than waived once all has been watched', () => {
    const signed = new Set(['eyes' as const]);
    const state = (sights: readonly PassSight[]) => workOutGates([], () => false, signed, workOutEyes(order, contents, sights)).at(-1)!.state;
    expect([state([seen(1001)]), state(frames.map((frame) => seen(frame)))]).toEqual(['waived', 'closed']);
  });
});

describe('how a frame is seen', () => {
  const playing: Showing = { playing: true, atOrderedRate: true, isItself: true, zoom: 1, visible: [0, 0, 1, 1] };

  it('is full only in its time, at its rate, itself, and no smaller than it is', () => {
    expect(wayOfSeeing(playing)).toEqual({ seen: { way: 'full', parts: ALL_PARTS }, why: null });
    expect(wayOfSeeing({ ...playing, zoom: 2, visible: [0, 0, 0.5, 1] })).toEqual({ seen: { way: 'full', parts: partsWithin([0, 0, 0.5, 1]) }, why: null });
    expect(wayOfSeeing({ ...playing, zoom: 0.5 })).toMatchObject({ seen: { way: 'fitted' }, why: 'smaller' });
    expect(wayOfSeeing({ ...playing, playing: false })).toMatchObject({ seen: { way: 'stepped' }, why: 'standing' });
    expect(wayOfSeeing({ ...playing, atOrderedRate: false })).toEqual({ seen: null, why: 'other rate' });
    expect(wayOfSeeing({ ...playing, isItself: false })).toEqual({ seen: null, why: 'not itself' });
  });
});

describe('a sight', () => {
  it('is refused where it names no content or parts that there are not', () => {
    const { pass: _, ...sight } = seen(1001);
    expect(sightSchema.safeParse(sight).success).toBe(true);
    for (const change of [{ content: 'ff' }, { content: 'z'.repeat(16) }, { parts: -1 }, { parts: ALL_PARTS + 1 }, { way: 'glanced' }, { frame: 1.5 }])
      expect(sightSchema.safeParse({ ...sight, ...change }).success).toBe(false);
  });
});
