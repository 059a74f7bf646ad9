import { frameStates, stateRank, type Lane } from '@mint-tally/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { chooseTicks, columnOf, layOutLane, makeRibbonModel, NOT_ORDERED, stretchesOf } from '$lib/ribbon/ribbon-model';

const lane = (pass: string, frames: string, states: string): Lane => ({ pass, frames, states });
const ranks = (letters: string) => Uint8Array.from(letters, (letter) => (letter === ' ' ? NOT_ORDERED : stateRank(letter)));
const MISSING = stateRank(frameStates.missing);

describe('the ribbon’s columns', () => {
  it('are every frame that any pass orders, the worst of all beside', () => {
    const model = makeRibbonModel([lane('beauty', '1-3', 'smo'), lane('depth', '2-8x3', 'sbs')]);
    expect([...model.frames]).toEqual([1, 2, 3, 5, 8]);
    expect([...model.lanes[1].ranks]).toEqual([...ranks(' s bs')]);
    expect([...model.worst.ranks]).toEqual([...ranks('smobs')]);
  });

  it('find the nearest ordered frame', () => {
    const frames = Int32Array.of(1, 2, 5, 9);
    expect([-5, 1, 3, 4, 7, 8, 99].map((frame) => columnOf(frames, frame))).toEqual([0, 0, 1, 2, 3, 3, 3]);
  });
});

describe('a lane in pixels', () => {
  it('is kept while it is shown alike, and laid out anew when zoom, place, width or lane change', () => {
    const states = ranks('smbos'.repeat(200));
    const first = stretchesOf(states, 0, 1000, 500);
    expect(stretchesOf(states, 0, 1000, 500)).toBe(first);
    const others: [Uint8Array, number, number, number][] = [
      [states, 10, 1000, 500],
      [states, 0, 900, 500],
      [states, 0, 1000, 400],
      [ranks('sbmso'.repeat(200)), 0, 1000, 500],
    ];
    for (const shown of others) expect(stretchesOf(...shown)).toEqual(layOutLane(...shown));
    expect(stretchesOf(states, 0, 1000, 500)).toEqual(first);
  });

  it('shows one missing frame among ten thousand, wherever it is and however far it is zoomed out', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 9999 }), fc.integer({ min: 200, max: 2000 }), (at, width) => {
        const states = new Uint8Array(10_000);
        states[at] = MISSING;
        const stretches = layOutLane(states, 0, 10_000, width).filter((stretch) => stretch.rank === MISSING);
        expect(stretches).toHaveLength(1);
        expect(stretches[0].x).toBe(Math.min(width - 3, Math.floor((at * width) / 10_000)));
        expect(stretches[0].width).toBe(3);
        expect(stretches[0].x + stretches[0].width).toBeLessThanOrEqual(width);
      }),
    );
  });

  it('covers every pixel of a full lane once, and nothing besides', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...'slwoxbm'), { minLength: 50, maxLength: 900 }), fc.integer({ min: 50, max: 400 }), (letters, width) => {
        const stretches = layOutLane(ranks(letters.join('')), 0, letters.length, width);
        let end = 0;
        for (const stretch of stretches) {
          expect(stretch.x).toBeGreaterThanOrEqual(end);
          end = stretch.x + stretch.width;
        }
        expect(end).toBeLessThanOrEqual(width + 1e-6);
        const covered = stretches.reduce((sum, stretch) => sum + stretch.width, 0);
        if (width / letters.length < 4) expect(covered).toBe(Math.floor(width));
      }),
    );
  });

  it('leaves out what is not ordered', () => {
    expect(layOutLane(ranks('s  s'), 0, 4, 400)).toHaveLength(2);
    expect(layOutLane(ranks(' '.repeat(500)), 0, 500, 100)).toEqual([]);
  });

  it('shows the part that is zoomed in on', () => {
    const stretches = layOutLane(ranks('sssmss'), 2, 5, 300);
    expect(stretches.map(({ x, rank }) => [x, rank])).toEqual([
      [0, 0],
      [100, MISSING],
      [200, 0],
    ]);
  });
});

describe('ticks', () => {
  it('are never nearer than asked for, and start with the first frame', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 20_000 }), fc.integer({ min: 200, max: 2000 }), (count, width) => {
        const frames = Int32Array.from({ length: count }, (_, i) => 1001 + i);
        const ticks = chooseTicks(frames, 0, count, width, 60);
        expect(ticks[0]).toBe(0);
        for (let i = 1; i < ticks.length; i++) expect(((ticks[i] - ticks[i - 1]) * width) / count).toBeGreaterThanOrEqual(59.9);
      }),
    );
  });
});
