import fc from 'fast-check';
import { parseFrameRate } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { Course } from '$lib/view/course';
import { alignedFrame, alignments } from '$lib/view/other-folder';
import { NORMAL_SPEED, Player, SPEEDS } from '$lib/view/player.svelte';
import { holdOf } from '$lib/view/viewing.svelte';

/** A player over some columns, with a clock and a screen of our own. */
function makePlayer(columns: number, fps: string, hold = 1) {
  const clock = { seconds: 100 };
  const played = { course: Course.stretch(0, columns - 1) };
  const player = new Player(
    () => ({ ...played, rate: parseFrameRate(fps), hold }),
    () => clock.seconds,
  );
  /** Goes on for so many seconds with so many refreshes; says which columns were due. */
  const run = (seconds: number, refreshes: number, isThere: (column: number) => boolean = () => true) => {
    const seen: (number | null)[] = [];
    const begin = clock.seconds;
    for (let i = 0; i < refreshes; i++) {
      const column = player.due();
      seen.push(column);
      if (column !== null && isThere(column)) player.saw();
      clock.seconds = begin + ((i + 1) * seconds) / refreshes;
    }
    return seen;
  };
  return { player, clock, played, run };
}

describe('playing', () => {
  it('shows every frame once at the ordered rate, and drops none', () => {
    for (const fps of ['24', '25', '23.976']) {
      const { player, run } = makePlayer(1000, fps);
      player.start(0);
      run(10, 600);
      expect(player.count.dropped).toBe(0);
      const { numerator, denominator } = parseFrameRate(fps);
      expect(Math.abs(player.count.measured! - numerator / denominator)).toBeLessThan(0.6);
    }
  });

  it('stands after ten minutes where the clock demands, whatever was shown between', () => {
    const { player, clock, run } = makePlayer(100_000, '23.976');
    player.start(0);
    run(599, 37);
    clock.seconds = 100 + 600;
    expect(player.due()).toBe(14385);
  });

  it('counts what never stood on the screen: shown and dropped are all that passed', () => {
    const { player, run } = makePlayer(48, '24');
    player.start(0);
    // Every fifth picture is not there; the screen refreshes ten times a second.
    run(4, 40, (column) => column % 5 !== 0);
    player.due();
    const passed = player.count.shown + player.count.dropped;
    expect(passed).toBe(96);
    expect(player.count.dropped).toBeGreaterThan(96 - 40);
  });

  it('goes backwards, slower, and stops at the end when it is played once', () => {
    const { player, run } = makePlayer(10, '24');
    player.loop = 'once';
    player.speed = NORMAL_SPEED - 1;
    expect(SPEEDS[player.speed]).toEqual([1, 2]);
    player.start(3, -1);
    const seen = run(1, 60).filter((column, i, all) => column !== all[i - 1]);
    expect(seen).toEqual([3, 2, 1, 0, null]);
    expect(player.playing).toBe(false);
  });

  it('shows one frame in so many, each for the time of all of them', () => {
    const { player, run } = makePlayer(12, '12');
    player.every = 4;
    player.start(0);
    expect([...new Set(run(0.99, 200))]).toEqual([0, 4, 8]);
  });

  it('begins at the other end where it stands at the end, and in the stretch where it stands outside', () => {
    const { player, played } = makePlayer(10, '24');
    player.loop = 'once';
    player.start(9);
    expect(player.due()).toBe(0);
    played.course = Course.stretch(4, 9);
    player.start(1);
    expect(player.due()).toBe(4);
  });

  it('of nothing does not begin', () => {
    const { player } = makePlayer(0, '24');
    player.start(0);
    expect([player.playing, player.due()]).toEqual([false, null]);
  });
});

describe('a column', () => {
  it('lasts as many frames as the step of the range', () => {
    expect([holdOf([1001, 1002, 1003]), holdOf([1001, 1006, 1011]), holdOf([1, 2, 10, 11]), holdOf([7]), holdOf([])]).toEqual([1, 5, 1, 1, 1]);
  });
});

describe('a course', () => {
  const columns = fc.uniqueArray(fc.integer({ min: 0, max: 60 }), { minLength: 1, maxLength: 30 });

  it('knows where each of its columns stands, and that the others do not', () => {
    fc.assert(
      fc.property(columns, (some) => {
        const course = Course.of(some);
        expect([...course.columns]).toEqual([...some].sort((a, b) => a - b));
        for (let column = -1; column <= 61; column++) {
          const place = course.placeOf(column);
          if (some.includes(column)) expect(course.at(place)).toBe(column);
          else expect(place).toBe(-1);
        }
      }),
    );
    expect([Course.stretch(3, 5).isStretch, Course.of([3, 5]).isStretch, Course.stretch(5, 3).count]).toEqual([true, false, 0]);
  });

  it('with neighbours has those that there are', () => {
    expect([...Course.of([0, 5, 9]).withNeighbours(1, 10).columns]).toEqual([0, 1, 5, 6, 9]);
    expect([...Course.of([0, 5]).withNeighbours(-1, 10).columns]).toEqual([0, 4, 5]);
    expect([...Course.of([0, 5, 6, 9]).every(2).columns]).toEqual([0, 6]);
  });

  it('of some columns is played without those between', () => {
    const { player, played, run } = makePlayer(20, '10');
    played.course = Course.of([2, 3, 11]);
    player.start(3);
    expect([...new Set(run(0.99, 100))]).toEqual([3, 11, 2]);
  });
});

describe('frames of another folder', () => {
  const other = { root: 'demo', folder: 'v002', sequence: { name: 'b.####.exr', first: 1, last: 48, count: 48, isStill: false } };
  it('stand beside those of the shot as chosen', () => {
    expect(alignedFrame(1010, 1001, other, 'number', 5)).toBe(1010);
    expect(alignedFrame(1010, 1001, other, 'first', 5)).toBe(10);
    expect(alignedFrame(1010, 1001, other, 'offset', -1000)).toBe(10);
  });

  it('of a still are always that one', () => {
    const still = { ...other, sequence: { ...other.sequence, first: 7, last: 7, count: 1, isStill: true } };
    for (const align of alignments) expect(alignedFrame(1010, 1001, still, align, 3)).toBe(7);
  });
});
